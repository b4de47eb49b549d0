package main

import (
	"io"
	"net"
	"sync/atomic"
	"time"
)

// wire stands between the service and its mail server: slow, or dead, when it is told to be.
type wire struct {
	listen net.Listener
	to     string
	slow   atomic.Bool // each piece takes a second
	dead   atomic.Bool // nobody is let in
}

func newWire(to string) (*wire, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	w := &wire{listen: l, to: to}
	go w.carry()
	return w, nil
}

func (w *wire) carry() {
	for {
		in, err := w.listen.Accept()
		if err != nil {
			return // it was closed
		}
		if w.dead.Load() {
			in.Close()
			continue
		}
		out, err := net.Dial("tcp", w.to)
		if err != nil {
			in.Close()
			continue
		}
		go w.copy(out, in)
		go w.copy(in, out)
	}
}

func (w *wire) copy(to, from net.Conn) {
	defer to.Close()
	piece := make([]byte, 4096)
	for {
		n, err := from.Read(piece)
		if n > 0 {
			if w.slow.Load() {
				time.Sleep(time.Second)
			}
			if _, err := to.Write(piece[:n]); err != nil {
				return
			}
		}
		if err != nil || err == io.EOF || w.dead.Load() {
			return
		}
	}
}
