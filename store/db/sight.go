package db

import (
	"encoding/json"
	"fmt"

	"mantilla/model"
)

// SharedWhere is the condition under which somebody sees what is owned and shared,
// with its values; of is the alias of the table.
func SharedWhere(w model.Seen, of string) (string, []any) {
	groups, _ := json.Marshal(append([]string{"everyone"}, w.Groups...))
	return fmt.Sprintf(`(%[1]s.owner = ? or %[1]s.shared in (select value from json_each(?)) or ?)`, of),
		[]any{w.Person, string(groups), w.All}
}

// SeenWhere is the condition under which a run or result is in sight, with its
// values; of is the alias of the table.
func SeenWhere(v model.Sight, of string) (string, []any) {
	if v.All {
		return "1", nil
	}
	reports, _ := json.Marshal(append([]string{}, v.Reports...))
	units, _ := json.Marshal(append([]string{}, v.Reach.Units...))
	return fmt.Sprintf(`%[1]s.report in (select value from json_each(?)) and (%[1]s.beside = '' or
		%[1]s.beside in (select value from json_each(?))) and (not ? or %[1]s.limited
		and not exists (select 1 from json_each(%[1]s.units) u where u.value not in (select value from json_each(?))))`, of),
		[]any{string(reports), string(reports), v.Reach.Limited, string(units)}
}
