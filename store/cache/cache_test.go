package cache

import (
	"errors"
	"fmt"
	"sync"
	"sync/atomic"
	"testing"
)

type sized int

func (s sized) Bytes() int { return int(s) }

func get(t *testing.T, c *Cache, key string, bytes int) (made bool) {
	t.Helper()
	v, err := c.Get(key, func() (Sized, error) { made = true; return sized(bytes), nil })
	if err != nil || v.Bytes() != bytes {
		t.Fatalf("%s: got %v, %v", key, v, err)
	}
	return made
}

func TestCacheForgetsWhatWasNotUsedForLongest(t *testing.T) {
	c := New(100)
	for _, step := range []struct {
		key   string
		bytes int
		made  bool
		used  int
	}{{"a", 40, true, 40}, {"b", 40, true, 80}, {"a", 40, false, 80}, {"c", 40, true, 80}, {"a", 40, false, 80},
		{"b", 40, true, 80}, {"large", 101, true, 0}, {"large", 101, true, 0}} {
		if made := get(t, c, step.key, step.bytes); made != step.made || c.Used() != step.used {
			t.Errorf("%+v: made %v, %d bytes used", step, made, c.Used())
		}
	}
}

func TestCacheForgetsByPrefix(t *testing.T) {
	c := New(100)
	get(t, c, "1/a", 10)
	get(t, c, "1/b", 10)
	get(t, c, "11/a", 10)
	c.Forget("1/")
	if c.Used() != 10 || !get(t, c, "1/a", 10) || get(t, c, "11/a", 10) {
		t.Errorf("%d bytes used", c.Used())
	}
}

func TestCacheDoesNotKeepFailures(t *testing.T) {
	c := New(100)
	wrong := errors.New("wrong")
	if _, err := c.Get("a", func() (Sized, error) { return nil, wrong }); !errors.Is(err, wrong) {
		t.Fatal(err)
	}
	if !get(t, c, "a", 5) || c.Used() != 5 {
		t.Error("the failure was kept")
	}
}

func TestCacheMakesOnce(t *testing.T) {
	c := New(1000)
	var made atomic.Int32
	var all sync.WaitGroup
	for i := range 50 {
		all.Go(func() {
			if _, err := c.Get(fmt.Sprint(i%5), func() (Sized, error) { made.Add(1); return sized(1), nil }); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	if made.Load() != 5 {
		t.Errorf("5 values were made %d times", made.Load())
	}
}
