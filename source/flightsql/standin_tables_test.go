package flightsql

import (
	"context"
	"encoding/json"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/flight"
	"github.com/apache/arrow-go/v18/arrow/flight/flightsql"
	"github.com/apache/arrow-go/v18/arrow/flight/flightsql/schema_ref"
	"github.com/apache/arrow-go/v18/arrow/memory"
)

// columnsOf are the columns of all tables, with what they are keys of.
const columnsOf = `select json_agg(json_build_object('Table', c.relname, 'Name', a.attname, 'Required', a.attnotnull,
	'Key', exists (select 1 from pg_constraint p
		where p.conrelid = c.oid and p.contype = 'p' and a.attnum = any (p.conkey)),
	'References', coalesce((select r.relname from pg_constraint f join pg_class r on r.oid = f.confrelid
		where f.conrelid = c.oid and f.contype = 'f' and a.attnum = any (f.conkey) limit 1), '')) order by c.relname,
			a.attnum)
from pg_class c join pg_attribute a on a.attrelid = c.oid and a.attnum > 0
where c.relkind = 'r' and c.relnamespace = 'public'::regnamespace`

type column struct {
	Table, Name, References string
	Required, Key           bool
}

func (s *standin) columns(ctx context.Context) (all []column, err error) {
	conn, err := own.Connect(ctx, s.database)
	if err != nil {
		return nil, err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	var text []byte
	if err := conn.QueryRow(ctx, columnsOf).Scan(&text); err != nil {
		return nil, err
	}
	return all, json.Unmarshal(text, &all)
}

// GetFlightInfoTables tells where the tables will be.
func (s *standin) GetFlightInfoTables(_ context.Context, _ flightsql.GetTables, d *flight.FlightDescriptor) (
	*flight.FlightInfo, error) {
	return ticketed(d), nil
}

// DoGetTables gives the tables of the database.
func (s *standin) DoGetTables(ctx context.Context, _ flightsql.GetTables) (*arrow.Schema, <-chan flight.StreamChunk,
	error) {
	all, err := s.columns(ctx)
	if err != nil {
		return nil, nil, err
	}
	b := array.NewRecordBuilder(memory.DefaultAllocator, schema_ref.TablesWithIncludedSchema)
	for len(all) > 0 {
		var fields []arrow.Field
		name := all[0].Table
		for ; len(all) > 0 && all[0].Table == name; all = all[1:] {
			fields = append(fields, arrow.Field{Name: all[0].Name, Type: arrow.BinaryTypes.String, Nullable: !all[0].Required})
		}
		for i, text := range []string{s.database, "public", name, "TABLE"} {
			b.Field(i).(*array.StringBuilder).Append(text)
		}
		b.Field(4).(*array.BinaryBuilder).Append(flight.SerializeSchema(arrow.NewSchema(fields, nil),
			memory.DefaultAllocator))
	}
	return one(b)
}

// GetFlightInfoPrimaryKeys tells where the keys will be.
func (s *standin) GetFlightInfoPrimaryKeys(_ context.Context, _ flightsql.TableRef, d *flight.FlightDescriptor) (
	*flight.FlightInfo, error) {
	return ticketed(d), nil
}

// DoGetPrimaryKeys gives the keys of a table.
func (s *standin) DoGetPrimaryKeys(ctx context.Context, of flightsql.TableRef) (*arrow.Schema,
	<-chan flight.StreamChunk, error) {
	all, err := s.columns(ctx)
	if err != nil {
		return nil, nil, err
	}
	b := array.NewRecordBuilder(memory.DefaultAllocator, schema_ref.PrimaryKeys)
	for _, c := range all {
		if c.Table == of.Table && c.Key {
			for i, text := range []string{s.database, "public", c.Table, c.Name} {
				b.Field(i).(*array.StringBuilder).Append(text)
			}
			b.Field(4).(*array.Int32Builder).Append(1)
			b.Field(5).AppendNull()
		}
	}
	return one(b)
}

// GetFlightInfoImportedKeys tells where the keys will be.
func (s *standin) GetFlightInfoImportedKeys(_ context.Context, _ flightsql.TableRef, d *flight.FlightDescriptor) (
	*flight.FlightInfo, error) {
	return ticketed(d), nil
}

// DoGetImportedKeys gives which columns of a table are keys of others.
func (s *standin) DoGetImportedKeys(ctx context.Context, of flightsql.TableRef) (*arrow.Schema,
	<-chan flight.StreamChunk, error) {
	all, err := s.columns(ctx)
	if err != nil {
		return nil, nil, err
	}
	b := array.NewRecordBuilder(memory.DefaultAllocator, schema_ref.ImportedKeys)
	for _, c := range all {
		if c.Table == of.Table && c.References != "" {
			for i, text := range []string{s.database, "public", c.References, "id", s.database, "public", c.Table, c.Name} {
				b.Field(i).(*array.StringBuilder).Append(text)
			}
			b.Field(8).(*array.Int32Builder).Append(1)
			b.Field(9).AppendNull()
			b.Field(10).AppendNull()
			b.Field(11).(*array.Uint8Builder).Append(0)
			b.Field(12).(*array.Uint8Builder).Append(0)
		}
	}
	return one(b)
}

// one is a stream of one batch.
func one(b *array.RecordBuilder) (*arrow.Schema, <-chan flight.StreamChunk, error) {
	batch := b.NewRecordBatch()
	chunks := make(chan flight.StreamChunk, 1)
	chunks <- flight.StreamChunk{Data: batch}
	close(chunks)
	return batch.Schema(), chunks, nil
}
