package bundle_test

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"
	"time"

	"mantilla/core/bundle"
)

func sample() *bundle.Bundle {
	return &bundle.Bundle{
		Manifest: bundle.Manifest{Made: time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC), By: "lila", From: "Brackenfell"},
		Files:    map[string][]byte{"reports/lots.yaml": []byte("report: lots\n"), "shared.yaml": []byte("parameters: []\n")},
	}
}

func written(t *testing.T, b *bundle.Bundle) []byte {
	t.Helper()
	var out bytes.Buffer
	if err := bundle.Write(&out, b); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

func TestWhatIsWrittenIsRead(t *testing.T) {
	first := written(t, sample())
	if !bytes.Equal(first, written(t, sample())) {
		t.Error("the same content gives other bytes")
	}
	b, err := bundle.Read(first)
	if err != nil {
		t.Fatal(err)
	}
	if b.By != "lila" || b.From != "Brackenfell" || string(b.Below("reports")["lots"]) != "report: lots\n" ||
		len(b.Files) != 2 || !b.Made.Equal(sample().Made) {
		t.Errorf("%+v", b)
	}
}

// altered writes a ZIP of files as they are.
func altered(t *testing.T, files ...string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for i := 0; i < len(files); i += 2 {
		f, err := z.Create(files[i])
		if err == nil {
			_, err = f.Write([]byte(files[i+1]))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

func TestWhatIsNotWholeIsRefused(t *testing.T) {
	good := written(t, sample())
	empty := "bundle: 1\nfiles: []\n"
	for name, c := range map[string]struct {
		text []byte
		says string
	}{
		"nothing":       {nil, "no bundle"},
		"text":          {[]byte("report: lots"), "no bundle"},
		"cut short":     {good[:len(good)/2], "cut short"},
		"no manifest":   {altered(t, "a.yaml", "x"), "no manifest.yaml"},
		"not listed":    {altered(t, "manifest.yaml", empty, "a.yaml", "x"), "a.yaml is not in its manifest"},
		"another":       {altered(t, "manifest.yaml", "bundle: 1\nfiles: [{path: a, sha256: '00'}]\n", "a", "x"), "not what"},
		"missing":       {altered(t, "manifest.yaml", "bundle: 1\nfiles: [{path: a, sha256: '00'}]\n"), "a is missing"},
		"leads out":     {altered(t, "manifest.yaml", empty, "../a.yaml", "x"), "leads out"},
		"leads away":    {altered(t, "manifest.yaml", empty, "/etc/passwd", "x"), "leads out"},
		"another drive": {altered(t, "manifest.yaml", empty, `C:\a`, "x"), "leads out"},
		"twice":         {altered(t, "manifest.yaml", empty, "a", "x", "a", "x"), "twice"},
		"newer":         {altered(t, "manifest.yaml", "bundle: 2\n"), "of a newer program"},
		"older":         {altered(t, "manifest.yaml", "files: []\n"), "has no form"},
		"no YAML":       {altered(t, "manifest.yaml", "["), "cannot be read"},
		"too large":     {altered(t, "manifest.yaml", strings.Repeat(" ", bundle.MostBytes+1)), "more than 64 MiB"},
	} {
		if b, err := bundle.Read(c.text); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, %v; want %q", name, b, err, c.says)
		}
	}
	for i := range good { // one bit anywhere may not pass as another content
		bent := bytes.Clone(good)
		bent[i] ^= 1
		if b, err := bundle.Read(bent); err == nil && string(b.Files["reports/lots.yaml"]) != "report: lots\n" {
			t.Fatalf("bit %d altered the content", i)
		}
	}
}
