package mariadb

import (
	"database/sql"
	"errors"
	"strconv"

	"mantilla/core/query"
	"mantilla/source"
	"mantilla/source/sqldb"
)

// Reckon asks the optimiser how many rows it expects of each table of the query, and how many
// percent of these pass (MariaDB, EXPLAIN EXTENDED). It tells nothing of groups.
func (e *engine) Reckon(of source.Statement, q query.Query, each sqldb.Each) (int64, error) {
	if len(q.Group) > 0 || q.Newest != nil {
		return 0, errors.New("groups and first rows are not reckoned")
	}
	steps := 0
	rows := 1.0
	err := each("explain extended "+of.Text, of.Args, func(columns []string, row []sql.RawBytes) error {
		told := map[string]string{}
		for i, column := range columns {
			told[column] = string(row[i])
		}
		if told["select_type"] != "SIMPLE" && told["select_type"] != "PRIMARY" {
			return nil // of a query within it
		}
		steps++
		expected, err := strconv.ParseFloat(told["rows"], 64)
		if err != nil {
			rows = 0 // none can meet the conditions
			return nil
		}
		passing, err := strconv.ParseFloat(told["filtered"], 64)
		if err != nil {
			passing = 100
		}
		rows *= expected * passing / 100
		return nil
	})
	if err != nil {
		return 0, err
	}
	if steps == 0 {
		return 0, errors.New("the optimiser told nothing of rows")
	}
	return int64(min(rows, source.MostReckoned)), nil
}
