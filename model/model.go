// Package model has the nouns of the service: people and what they may open,
// reports, criteria, runs, results, run controls, parcels and how each is known.
// It holds no SQL and no HTTP: the store keeps these, the rooms of the library
// work with them, and every face shows them.
package model
