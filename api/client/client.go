// Package client is the side of the contract that calls.
package client
