package talk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"net/http"
	"os"
	"path/filepath"
)

// tokens are kept in a file that only the person can read, one for each
// service.
type tokens map[string]string

func tokenFile() (string, error) {
	dir, err := os.UserConfigDir()
	return filepath.Join(dir, "mantilla", "tokens.json"), err
}

// ReadTokens reads the tokens that are kept for services.
func ReadTokens() (tokens, error) {
	all := tokens{}
	path, err := tokenFile()
	if err != nil {
		return all, err
	}
	text, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return all, nil
	}
	if err == nil {
		err = json.Unmarshal(text, &all)
	}
	return all, err
}

func (all tokens) Write() error {
	path, err := tokenFile()
	if err != nil {
		return err
	}
	text, err := json.MarshalIndent(all, "", "  ")
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	return os.WriteFile(path, text, 0o600)
}

// signed adds the person's token to a request: that of MANTILLA_TOKEN, or the
// one that login kept.
func (c *Program) signed(_ context.Context, r *http.Request) error {
	r.Header.Set("User-Agent", "mantilla")
	token := os.Getenv("MANTILLA_TOKEN")
	if token == "" {
		all, err := ReadTokens()
		if err != nil {
			return fmt.Errorf("reading the kept tokens: %w", err)
		}
		token = all[c.Service]
	}
	if token != "" {
		r.Header.Set("Authorization", "Bearer "+token)
	}
	return nil
}
