package store

import (
	"mantilla/store/audit"
	"mantilla/store/backup"
	"mantilla/store/care"
	"mantilla/store/catalog"
	"mantilla/store/controls"
	"mantilla/store/drafting"
	"mantilla/store/entering"
	"mantilla/store/files"
	"mantilla/store/health"
	"mantilla/store/history"
	"mantilla/store/keeping"
	"mantilla/store/meaning"
	"mantilla/store/moving"
	"mantilla/store/needs"
	"mantilla/store/people"
	"mantilla/store/reconciling"
	"mantilla/store/results"
	"mantilla/store/runs"
	"mantilla/store/secrets"
	"mantilla/store/sending"
	"mantilla/store/shelf"
	"mantilla/store/standing"
	"mantilla/store/trash"
)

// People returns the records of accounts.
func (s *Store) People() people.People { return people.People{DB: s.db} }

// Standing counts what waits and what went.
func (s *Store) Standing() standing.Standing { return standing.Standing{DB: s.db} }

// Audit is the book of who did what.
func (s *Store) Audit() audit.Audit { return audit.Audit{DB: s.db} }

// Backup copies and verifies the records.
func (s *Store) Backup() backup.Backup { return backup.Backup{DB: s.db} }

// Care returns the records of who looks after reports.
func (s *Store) Care() care.Care { return care.Care{DB: s.db} }

// Catalog returns the records of the catalog.
func (s *Store) Catalog() catalog.Catalog { return catalog.Catalog{DB: s.db} }

// Criteria returns the records of kept values.
func (s *Store) Criteria() catalog.Criteria { return catalog.Criteria{DB: s.db} }

// Runs returns the records of runs.
func (s *Store) Runs() runs.Runs { return runs.Runs{DB: s.db} }

// Results returns the records of results.
func (s *Store) Results() results.Results { return results.Results{DB: s.db} }

// Shelf returns the records of documents and links.
func (s *Store) Shelf() shelf.Shelf { return shelf.Shelf{DB: s.db} }

// Needs returns the records of who follows what.
func (s *Store) Needs() needs.Needs { return needs.Needs{DB: s.db} }

// Sending returns the records of what goes out.
func (s *Store) Sending() sending.Sending { return sending.Sending{DB: s.db} }

// Controls returns the records of run controls.
func (s *Store) Controls() controls.Controls { return controls.Controls{DB: s.db} }

// Desks returns the records of desks.
func (s *Store) Desks() catalog.Desks { return catalog.Desks{DB: s.db} }

// Drafting returns the records of drafts and notices.
func (s *Store) Drafting() drafting.Drafting { return drafting.Drafting{DB: s.db} }

// Meaning returns the records of the glossary.
func (s *Store) Meaning() meaning.Meaning { return meaning.Meaning{DB: s.db} }

// Moving returns the records of what travels in bundles.
func (s *Store) Moving() moving.Moving { return moving.Moving{DB: s.db} }

// Health returns the records that the health of reports is told by.
func (s *Store) Health() health.Health { return health.Health{DB: s.db} }

// Entering returns the records of what people typed in.
func (s *Store) Entering() entering.Entries { return entering.Entries{DB: s.db} }

// History returns the records that histories are read by.
func (s *Store) History() history.History { return history.History{DB: s.db} }

// Reconciling returns the records of statements.
func (s *Store) Reconciling() reconciling.Statements { return reconciling.Statements{DB: s.db} }

// Trash returns the records of what was deleted.
func (s *Store) Trash() trash.Trash { return trash.Trash{DB: s.db} }

// Files returns the records of what people brought for tables of sources.
func (s *Store) Files() files.Files { return files.Files{DB: s.db} }

// Secrets returns the records of sealed passwords and keys.
func (s *Store) Secrets() secrets.Secrets { return secrets.Secrets{DB: s.db} }

// Keeping returns the records of sign-offs, holds and notes.
func (s *Store) Keeping() keeping.Keeping { return keeping.Keeping{DB: s.db} }
