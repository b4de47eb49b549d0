package bundle_test

import (
	"bytes"
	"fmt"
	"time"

	"mantilla/core/bundle"
)

// Reports leave one service as a file, and come to another as they were.
func ExampleWrite() {
	sent := &bundle.Bundle{Manifest: bundle.Manifest{
		Made: time.Date(2026, 10, 1, 12, 0, 0, 0, time.UTC), By: "lila", From: "Merrow Honey"}}
	sent.Files = map[string][]byte{"reports/lots.yaml": []byte("report: lots\n")}
	if err := sent.Put("settings.yaml", map[string]string{"currency": "EUR"}); err != nil {
		panic(err)
	}
	var file bytes.Buffer
	if err := bundle.Write(&file, sent); err != nil {
		panic(err)
	}
	came, err := bundle.Read(file.Bytes())
	if err != nil {
		panic(err)
	}
	for _, digest := range came.Digest {
		fmt.Println(digest.Path, len(digest.SHA256))
	}
	fmt.Printf("%s from %s: %s", came.By, came.From, came.Below("reports")["lots"])
	// Output:
	// reports/lots.yaml 64
	// settings.yaml 64
	// lila from Merrow Honey: report: lots
}
