package catalog

import (
	_ "mantilla/source/files" // kinds of source, which register themselves
	_ "mantilla/source/mariadb"
	_ "mantilla/source/postgres"
	_ "mantilla/source/sqlite"
)
