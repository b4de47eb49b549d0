package main

import (
	"flag"
	"fmt"
	"os"
	"testing"
	"time"
)

var length = flag.Duration("for", 12*time.Second, "how long the service is used")

// TestMain is the service where it is started as such.
func TestMain(m *testing.M) {
	if os.Getenv(houseEnv) != "" {
		if err := house(); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		return
	}
	os.Exit(m.Run())
}

// TestSoak uses the service hard for a short while.
func TestSoak(t *testing.T) {
	found, err := run(t.Context(), t.TempDir(), *length)
	t.Log("\n" + found)
	if err != nil {
		t.Error(err)
	}
}
