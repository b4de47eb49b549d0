package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"time"

	"mantilla/console"
	"mantilla/deliver"
	"mantilla/demo"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/sending"
	"mantilla/model"
	"mantilla/server"
	"mantilla/store"
	"mantilla/store/storetest"
)

// houseEnv tells a process that it is the service, with its data directory, its address and that of its
// mail server.
const houseEnv = "MANTILLA_SOAK_HOUSE"

// Files in the data directory that lead the service: how far its clock is set forth, in seconds, and
// whether its disk is full.
const (
	clockFile = "soak-clock"
	fullFile  = "soak-full"
)

// house is the whole service on the demo's data, with a clock that can be set and a disk that can be full.
// It ends when it is told to.
func house() error {
	parts := strings.Split(os.Getenv(houseEnv), "|")
	if len(parts) != 3 {
		return fmt.Errorf("%s is to be DIR|ADDRESS|MAIL", houseEnv)
	}
	dir, address, mail := parts[0], parts[1], parts[2]
	ctx, stop := signal.NotifyContext(context.Background(), syscall.SIGTERM)
	defer stop()
	log := slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelWarn}))
	disk := storetest.NewDisk("soak")
	var ahead atomic.Int64
	go follow(ctx, dir, disk, &ahead)
	records, err := store.OpenOn(ctx, dir, 64<<20, disk.Name)
	if err != nil {
		return err
	}
	zone, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		return err
	}
	begun := time.Now()
	l, err := library.Open(ctx, records, library.Settings{
		Organisation: model.Organisation{Name: "Brackenfell Honey Cooperative", Zone: zone, Currency: "EUR",
			Now: func() time.Time {
				return demo.Today.Time().Add(12*time.Hour + time.Since(begun) + time.Duration(ahead.Load())*time.Second)
			}},
		Limits: capture.Limits{Rows: 1_000_000, Time: time.Minute, Workers: 2, Waiting: 200},
		Sending: sending.Settings{Mail: deliver.Server{Address: mail, From: "Reports <reports@brackenfell.example>",
			TLS: "none"}, MailLimit: 10 << 20, Folder: filepath.Join(dir, "outgoing")},
		DataDir: dir,
	}, log)
	if err != nil {
		return errors.Join(err, records.Close())
	}
	defer func() { _ = errors.Join(l.Close(), records.Close()) }()
	if err := demo.Load(ctx, l); err != nil {
		return err
	}
	closing := make(chan struct{})
	handler, err := server.Handler(l, server.Settings{Console: console.Files(), Version: "soak", Closing: closing}, log)
	if err != nil {
		return err
	}
	listener, err := server.Listen(address, "", "")
	if err != nil {
		return err
	}
	return server.Serve(ctx, listener, handler, func() { close(closing) }, log)
}

// follow sets the clock and the disk as the files in the directory say.
func follow(ctx context.Context, dir string, disk *storetest.Disk, ahead *atomic.Int64) {
	full := false
	for ctx.Err() == nil {
		if text, err := os.ReadFile(filepath.Join(dir, clockFile)); err == nil {
			if n, err := strconv.ParseInt(strings.TrimSpace(string(text)), 10, 64); err == nil {
				ahead.Store(n)
			}
		}
		_, err := os.Stat(filepath.Join(dir, fullFile))
		if now := err == nil; now != full {
			if full = now; full {
				disk.Fails(func(int) error { return storetest.Full })
			} else {
				disk.Fails(nil)
			}
		}
		time.Sleep(50 * time.Millisecond)
	}
}
