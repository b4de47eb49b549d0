// Package main has a house full of people use the whole service for a while, as everything goes wrong that
// does: power, disk, mail, source, clock, people who go away. Then it holds what the service promised
// against what is there. It prints what it found, and ends with 1 where that is not right.
//
//	go run ./soak -for 10m
package main

import (
	"context"
	"flag"
	"fmt"
	"os"
	"time"
)

func main() {
	if os.Getenv(houseEnv) != "" {
		if err := house(); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		return
	}
	length := flag.Duration("for", 10*time.Minute, "how long")
	flag.Parse()
	dir, err := os.MkdirTemp("", "mantilla-soak-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	found, err := run(context.Background(), dir, *length)
	fmt.Print(found)
	if err != nil {
		fmt.Fprintln(os.Stderr, "soak:", err, "- the data is in", dir)
		os.Exit(1)
	}
	_ = os.RemoveAll(dir)
}
