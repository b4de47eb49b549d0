package cache

import (
	"context"
	"errors"
	"testing"
	"time"

	"mantilla/core/rescue"
)

type one int

func (one) Bytes() int { return 1 }

func TestAPanicWhileAValueIsMadeIsAFailure(t *testing.T) {
	c := New(100)
	_, err := c.Get("k", func() (Sized, error) { panic("oh") })
	var p *rescue.Panic
	if !errors.As(err, &p) {
		t.Fatalf("got %v", err)
	}
	got := make(chan Sized, 1)
	go func() { v, _ := c.Get("k", func() (Sized, error) { return one(1), nil }); got <- v }()
	select {
	case v := <-got:
		if v != one(1) {
			t.Errorf("got %v", v)
		}
	case <-time.After(10 * time.Second):
		t.Fatal("the key waits for ever")
	}
}

// Who waits for a value that another gave up makes it.
func TestWhoWaitsDoesNotFailWithAnother(t *testing.T) {
	c := New(100)
	begun, leave := make(chan struct{}), make(chan struct{})
	go c.Get("k", func() (Sized, error) { close(begun); <-leave; return nil, context.Canceled })
	<-begun
	got := make(chan error, 1)
	go func() { _, err := c.Get("k", func() (Sized, error) { return one(1), nil }); got <- err }()
	time.Sleep(20 * time.Millisecond)
	close(leave)
	if err := <-got; err != nil {
		t.Errorf("got %v", err)
	}
}
