//go:build !linux

package runner

// stepBack does nothing where a thread has no priority of its own.
func stepBack() error { return nil }
