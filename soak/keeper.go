package main

import (
	"bytes"
	"context"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"
)

// keeper starts the service, and again whenever it was killed, and measures it.
type keeper struct {
	dir, address, mail string

	mu      sync.Mutex
	process *exec.Cmd
	said    *bytes.Buffer   // what the service said on standard error, the last of it
	back    []time.Duration // how long it took until it answered again
	sizes   []size          // of the process that runs now
}

// size is what the service takes at a moment.
type size struct {
	memory int64 // bytes that are resident
	files  int   // descriptors
}

// start starts the service and waits until it answers.
func (k *keeper) start(ctx context.Context) error {
	self, err := os.Executable()
	if err != nil {
		return err
	}
	cmd := exec.Command(self)
	cmd.Env = append(os.Environ(), houseEnv+"="+strings.Join([]string{k.dir, k.address, k.mail}, "|"))
	said := &bytes.Buffer{}
	cmd.Stderr = said
	if err := cmd.Start(); err != nil {
		return err
	}
	go func() { _ = cmd.Wait() }() // it is killed
	k.mu.Lock()
	k.process, k.said, k.sizes = cmd, said, nil
	k.mu.Unlock()
	for begun := time.Now(); ctx.Err() == nil; time.Sleep(20 * time.Millisecond) {
		r, err := http.Get("http://" + k.address + "/api/service")
		if err == nil {
			r.Body.Close()
			return nil
		}
		if time.Since(begun) > 30*time.Second {
			return fmt.Errorf("the service does not start: %s", said)
		}
	}
	return ctx.Err()
}

// kill ends the service as a power cut would, and starts it again.
func (k *keeper) kill(ctx context.Context) error {
	k.mu.Lock()
	p := k.process
	k.mu.Unlock()
	if err := p.Process.Kill(); err != nil {
		return err
	}
	for begun := time.Now(); time.Since(begun) < 5*time.Second; time.Sleep(10 * time.Millisecond) {
		c, err := net.DialTimeout("tcp", k.address, time.Second)
		if err != nil {
			break
		}
		c.Close()
	}
	begun := time.Now()
	err := k.start(ctx)
	k.mu.Lock()
	defer k.mu.Unlock()
	k.back = append(k.back, time.Since(begun))
	return err
}

// end lets the service end by itself.
func (k *keeper) end() {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.process != nil {
		_ = k.process.Process.Signal(syscall.SIGTERM)
	}
}

// measure notes what the service takes.
func (k *keeper) measure() {
	k.mu.Lock()
	defer k.mu.Unlock()
	pid := strconv.Itoa(k.process.Process.Pid)
	text, err := os.ReadFile("/proc/" + pid + "/statm")
	fields := strings.Fields(string(text))
	if err != nil || len(fields) < 2 {
		return
	}
	pages, _ := strconv.ParseInt(fields[1], 10, 64)
	open, err := os.ReadDir("/proc/" + pid + "/fd")
	if err == nil {
		k.sizes = append(k.sizes, size{pages * int64(os.Getpagesize()), len(open)})
	}
}
