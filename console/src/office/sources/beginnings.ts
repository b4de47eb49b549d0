/** What the declaration of a source begins with, by its kind. */
export const beginnings: { kind: string; name: string; text: string }[] = [
  {
    kind: 'postgres',
    name: 'A PostgreSQL server',
    text: `source: shop
title: Shop
kind: postgres
server:
  host: db.example.org
  database: shop
  user: reports              # may read and nothing else; the test says how one is made
  password: shop-reports     # the name of a secret; what it holds is kept below
  # tls: off                 # only on one's own machine
  # schemas: [public]
# units: units               # the list that is the tree of the organisation's units
lists:
  # units: {from: unit, code: id, label: name, parent: parent_id}
`,
  },
  {
    kind: 'mariadb',
    name: 'A MariaDB server',
    text: `source: shop
title: Shop
kind: mariadb
server:
  host: db.example.org
  database: shop
  user: reports              # may read and nothing else; the test says how one is made
  password: shop-reports     # the name of a secret; what it holds is kept below
  # tls: off                 # only on one's own machine
# units: units               # the list that is the tree of the organisation's units
lists:
  # units: {from: unit, code: id, label: name, parent: parent_id}
`,
  },
  {
    kind: 'sqlserver',
    name: 'A Microsoft SQL Server',
    text: `source: shop
title: Shop
kind: sqlserver
server:
  host: db.example.org
  database: shop             # which allows snapshot isolation
  user: reports              # may read and nothing else; the test says how one is made
  password: shop-reports     # the name of a secret; what it holds is kept below
  # tls: off                 # only on one's own machine
# units: units               # the list that is the tree of the organisation's units
lists:
  # units: {from: unit, code: id, label: name, parent: parent_id}
`,
  },
  {
    kind: 'oracle',
    name: 'An Oracle database',
    text: `source: shop
title: Shop
kind: oracle
server:
  host: db.example.org
  database: SHOP             # the name of the service
  schemas: [shop]            # whose tables are meant
  user: reports              # may read and nothing else; the test says how one is made
  password: shop-reports     # the name of a secret; what it holds is kept below
  # tls: off                 # only on one's own machine
# units: units               # the list that is the tree of the organisation's units
lists:
  # units: {from: unit, code: id, label: name, parent: parent_id}
`,
  },
  {
    kind: 'flightsql',
    name: 'A server that speaks Arrow Flight SQL',
    text: `source: shop
title: Shop
kind: flightsql
server:
  host: flight.example.org
  # port: 32010
  # user: reports            # without one, the password is sent as a token
  password: shop-reports     # the name of a secret; what it holds is kept below
  # database: shop
  # tls: off                 # only on one's own machine
# units: units               # the list that is the tree of the organisation's units
lists:
  # units: {from: unit, code: id, label: name, parent: parent_id}
`,
  },
  {
    kind: 'sqlite',
    name: 'A SQLite file',
    text: `source: records
title: Records
kind: sqlite
file: records.db             # within the data directory
lists:
  # grades: {from: grade, code: code, label: label}
`,
  },
]
