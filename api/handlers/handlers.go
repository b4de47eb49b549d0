// Package handlers is the side of the contract that answers: an interface with a
// method for each call, and what brings requests to it.
package handlers
