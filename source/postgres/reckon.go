package postgres

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5/pgconn"

	"mantilla/core/query"
	"mantilla/source"
)

// Reckon asks the planner how many rows it expects (PostgreSQL, EXPLAIN).
func (v *session) Reckon(ctx context.Context, q query.Query) (int64, error) {
	of := source.Write(q, dialect{})
	values, types, err := bound(of.Args)
	if err != nil {
		return 0, err
	}
	if !isSelect(of.Text) {
		return 0, errors.New("a query must be a select")
	}
	var told *pgconn.Result
	err = v.guarded(ctx, func() error {
		told = v.conn.Conn().PgConn().ExecParams(ctx, "explain (format json) "+of.Text, values, types, nil, nil).Read()
		return told.Err
	})
	if err != nil {
		return 0, fmt.Errorf("dataset %s: %w", of.Dataset.ID, v.server.explain(ctx, err))
	}
	var plans []struct {
		Plan struct {
			Rows float64 `json:"Plan Rows"`
		} `json:"Plan"`
	}
	if len(told.Rows) != 1 || len(told.Rows[0]) != 1 {
		return 0, errors.New("the planner told nothing")
	}
	if err := json.Unmarshal(told.Rows[0][0], &plans); err != nil {
		return 0, fmt.Errorf("reading what the planner told: %w", err)
	}
	if len(plans) != 1 {
		return 0, errors.New("the planner told nothing")
	}
	return int64(min(plans[0].Plan.Rows, source.MostReckoned)), nil
}
