package store

// The records are one file, and each room of the library has a type of its own for
// what it keeps in it. All of them share its connections.
type (
	// People are accounts, groups, sessions, and to whom reports are open.
	People struct{ *base }
	// Catalog is sources, reports with their versions, and shared parameters.
	Catalog struct{ *base }
	// Criteria are kept values, usual ones, and marks of the last look.
	Criteria struct{ *base }
	// Runs are the queue, and the results that runs become.
	Runs struct{ *base }
	// Results are kept rows with their manifests, and views kept of them.
	Results struct{ *base }
	// Sending is parcels and the address book.
	Sending struct{ *base }
	// Controls are run controls, their timetables and calendars.
	Controls struct{ *base }
	// Desks are the tiles of people and groups.
	Desks struct{ *base }
)

// People returns the records of accounts.
func (s *Store) People() People { return People{s.base} }

// Catalog returns the records of the catalog.
func (s *Store) Catalog() Catalog { return Catalog{s.base} }

// Criteria returns the records of kept values.
func (s *Store) Criteria() Criteria { return Criteria{s.base} }

// Runs returns the records of runs.
func (s *Store) Runs() Runs { return Runs{s.base} }

// Results returns the records of results.
func (s *Store) Results() Results { return Results{s.base} }

// Sending returns the records of what goes out.
func (s *Store) Sending() Sending { return Sending{s.base} }

// Controls returns the records of run controls.
func (s *Store) Controls() Controls { return Controls{s.base} }

// Desks returns the records of desks.
func (s *Store) Desks() Desks { return Desks{s.base} }
