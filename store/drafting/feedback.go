package drafting

import (
	"context"
	"database/sql"

	"mantilla/model"
	"mantilla/store/db"
)

// AddFeedback keeps what a reader wrote and returns its number.
func (s Drafting) AddFeedback(ctx context.Context, f model.Feedback) (number int64, err error) {
	err = s.Write.QueryRowContext(ctx, `insert into feedback (report, result, person, at, says) values (?, ?, ?, ?, ?)
		returning number`, f.Report, f.Result, f.Person, db.Stamp(f.At), f.Says).Scan(&number)
	return number, db.Explain(err)
}

const feedbackColumns = `select number, report, result, person, at, says, state, answer, answered_by, answered_at
	from feedback`

func scanFeedback(row interface{ Scan(...any) error }) (f model.Feedback, err error) {
	var at, answered sql.NullString
	err = row.Scan(&f.Number, &f.Report, &f.Result, &f.Person, &at, &f.Says, &f.State, &f.Answer, &f.AnsweredBy, &answered)
	f.At, f.AnsweredAt = db.Unstamp(at), db.Unstamp(answered)
	return f, db.Explain(err)
}

// Feedback returns what was written, the newest first: by one person, or by all where
// person is "".
func (s Drafting) Feedback(ctx context.Context, person string, limit int) ([]model.Feedback, error) {
	rows, err := s.Read.QueryContext(ctx, feedbackColumns+` where ?1 in ('', person)
		order by state = 'done', number desc limit ?2`, person, limit)
	return db.Collect(rows, err, func(r *sql.Rows) (model.Feedback, error) { return scanFeedback(r) })
}

// FeedbackNumbered returns one.
func (s Drafting) FeedbackNumbered(ctx context.Context, number int64) (model.Feedback, error) {
	return scanFeedback(s.Read.QueryRowContext(ctx, feedbackColumns+` where number = ?`, number))
}

// AnswerFeedback keeps an answer and how far it is.
func (s Drafting) AnswerFeedback(ctx context.Context, f model.Feedback) error {
	done, err := s.Write.ExecContext(ctx, `update feedback set state = ?, answer = ?, answered_by = ?, answered_at = ?
		where number = ?`, f.State, f.Answer, f.AnsweredBy, db.Stamp(f.AnsweredAt), f.Number)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}
