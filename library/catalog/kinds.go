package catalog

import (
	_ "mantilla/source/files" // kinds of source, which register themselves
	_ "mantilla/source/flightsql"
	_ "mantilla/source/mariadb"
	_ "mantilla/source/oracle"
	_ "mantilla/source/postgres"
	_ "mantilla/source/sqlite"
	_ "mantilla/source/sqlserver"
)
