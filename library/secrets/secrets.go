// Package secrets keeps the passwords and keys of sources, so that none stands in a
// declaration: in the environment, in files of their own, or in the service's records,
// sealed there by a key that lies elsewhere. What a secret holds never leaves the service.
package secrets

import (
	"context"
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"time"

	"mantilla/library/access"
	"mantilla/model"
)

// Records are what the room keeps.
type Records interface {
	DeleteSecret(ctx context.Context, name string) error
	PutSecret(ctx context.Context, name string, sealed []byte, by string, at time.Time) error
	Sealed(ctx context.Context, name string) ([]byte, error)
	Secrets(ctx context.Context) ([]model.Secret, error)
}

// Settings are where secrets lie.
type Settings struct {
	Dir     string // a file for each; "" for none
	KeyFile string // what seals those in the records; it is made where there is none
}

// Room finds secrets. It is safe for several goroutines.
type Room struct {
	org      model.Organisation
	settings Settings
	records  Records
	log      *slog.Logger
	changed  func(name string) // told of every change; set before anybody is let in
}

// Access is the secrets as one person may keep them.
type Access struct {
	*access.Access
	room *Room
}

// Open makes the room.
func Open(org model.Organisation, settings Settings, records Records, log *slog.Logger) *Room {
	return &Room{org: org, settings: settings, records: records, log: log, changed: func(string) {}}
}

// As returns the secrets as a person may keep them.
func (room *Room) As(who *access.Access) *Access { return &Access{Access: who, room: room} }

// Tells lets somebody know of every secret that was changed.
func (room *Room) Tells(changed func(name string)) { room.changed = changed }

// envPrefix is what the names of secrets in the environment begin with.
const envPrefix = "MANTILLA_SECRET_"

func envName(name string) string {
	return envPrefix + strings.ToUpper(strings.ReplaceAll(name, "-", "_"))
}

var validName = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,62}$`)

// Find returns what a secret holds: of the environment, of a file, of the records.
func (room *Room) Find(name string) (string, error) {
	if !validName.MatchString(name) {
		return "", fmt.Errorf("%q is no name of a secret: it has small letters, digits and hyphens", name)
	}
	if text, ok := os.LookupEnv(envName(name)); ok {
		return text, nil
	}
	text, err := room.fromFile(name)
	if err == nil || !errors.Is(err, fs.ErrNotExist) {
		return text, err
	}
	sealed, err := room.records.Sealed(context.Background(), name)
	if errors.Is(err, model.ErrNotFound) {
		where := "keep it in the office under Sources, by mantilla secret set " + name + ", or in " + envName(name)
		return "", fmt.Errorf("there is no secret %q; %s", name, where)
	}
	if err != nil {
		return "", err
	}
	return room.open(name, sealed)
}

// fromFile reads a secret's file, which nobody else may read.
func (room *Room) fromFile(name string) (string, error) {
	if room.settings.Dir == "" {
		return "", fs.ErrNotExist
	}
	path := filepath.Join(room.settings.Dir, name)
	info, err := os.Stat(path)
	if err != nil {
		return "", err
	}
	if info.Mode().Perm()&0o077 != 0 {
		return "", fmt.Errorf("the file of the secret %q can be read by others; let only the service's account read it "+
			"(chmod 600)", name)
	}
	text, err := os.ReadFile(path)
	return strings.TrimRight(string(text), "\r\n"), err
}

// keySize is that of AES-256.
const keySize = 32

// key reads the key, and makes one where there is none.
func (room *Room) key() (cipher.AEAD, error) {
	key, err := os.ReadFile(room.settings.KeyFile)
	if errors.Is(err, fs.ErrNotExist) {
		key, err = room.newKey()
	}
	if err != nil {
		return nil, fmt.Errorf("reading the key of secrets: %w", err)
	}
	if len(key) != keySize {
		return nil, fmt.Errorf("the key of secrets %s has %d bytes; it must have %d", room.settings.KeyFile, len(key),
			keySize)
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, err
	}
	return cipher.NewGCMWithRandomNonce(block)
}

// newKey makes a key. Of two that are made at once, one stands.
func (room *Room) newKey() ([]byte, error) {
	key := make([]byte, keySize)
	rand.Read(key) // never fails
	file, err := os.OpenFile(room.settings.KeyFile, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if errors.Is(err, fs.ErrExist) {
		return os.ReadFile(room.settings.KeyFile)
	}
	if err != nil {
		return nil, err
	}
	if _, err = file.Write(key); err == nil {
		err = file.Sync()
	}
	return key, errors.Join(err, file.Close())
}

// open unseals a secret; it is sealed with its name, so that none can be put under another.
func (room *Room) open(name string, sealed []byte) (string, error) {
	key, err := room.key()
	if err != nil {
		return "", err
	}
	text, err := key.Open(nil, nil, sealed, []byte(name))
	if err != nil {
		return "", fmt.Errorf("the secret %q cannot be opened with the key in %s; keep it anew", name, room.settings.KeyFile)
	}
	return string(text), nil
}

// Seal seals something of the service's own under a name.
func (room *Room) Seal(name, text string) ([]byte, error) {
	key, err := room.key()
	if err != nil {
		return nil, err
	}
	return key.Seal(nil, nil, []byte(text), []byte(name)), nil
}

// Unseal opens what was sealed under a name.
func (room *Room) Unseal(name string, sealed []byte) (string, error) { return room.open(name, sealed) }

// List is the secrets that there are, by name, each from where it is taken.
func (a *Access) List(ctx context.Context) ([]model.Secret, error) {
	if err := a.May(access.KeepCatalog); err != nil {
		return nil, err
	}
	found := map[string]model.Secret{}
	kept, err := a.room.records.Secrets(ctx)
	if err != nil {
		return nil, err
	}
	for _, s := range kept {
		found[s.Name] = s
	}
	if a.room.settings.Dir != "" {
		files, err := os.ReadDir(a.room.settings.Dir)
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("listing the files of secrets: %w", err)
		}
		for _, f := range files {
			if validName.MatchString(f.Name()) {
				found[f.Name()] = model.Secret{Name: f.Name(), From: model.SecretOfFile}
			}
		}
	}
	for _, set := range os.Environ() {
		if name, ok := strings.CutPrefix(set, envPrefix); ok {
			name, _, _ = strings.Cut(name, "=")
			name = strings.ToLower(strings.ReplaceAll(name, "_", "-"))
			found[name] = model.Secret{Name: name, From: model.SecretOfEnvironment}
		}
	}
	all := []model.Secret{}
	for _, s := range found {
		all = append(all, s)
	}
	slices.SortFunc(all, func(x, y model.Secret) int { return strings.Compare(x.Name, y.Name) })
	return all, nil
}

// mostText bounds what a secret holds, in bytes.
const mostText = 16 << 10

// Put keeps a secret in the records, sealed. Sources that use it are opened anew.
func (a *Access) Put(ctx context.Context, name, text string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	switch {
	case !validName.MatchString(name):
		return model.Refuse("name", "%q is no name of a secret: it has small letters, digits and hyphens", name)
	case text == "" || len(text) > mostText:
		return model.Refuse("text", "a secret has 1 to %d bytes", mostText)
	}
	key, err := a.room.key()
	if err != nil {
		return err
	}
	sealed := key.Seal(nil, nil, []byte(text), []byte(name))
	if err := a.room.records.PutSecret(ctx, name, sealed, a.Person().Name, a.room.org.Now()); err != nil {
		return err
	}
	a.room.log.InfoContext(ctx, "secret kept", "secret", name, "by", a.Person().Name)
	a.room.changed(name)
	return nil
}

// Delete forgets a secret of the records.
func (a *Access) Delete(ctx context.Context, name string) error {
	if err := a.May(access.KeepCatalog); err != nil {
		return err
	}
	if err := a.room.records.DeleteSecret(ctx, name); errors.Is(err, model.ErrNotFound) {
		return model.NoSuch("secret in the service's records", name, nil)
	} else if err != nil {
		return err
	}
	a.room.log.InfoContext(ctx, "secret deleted", "secret", name, "by", a.Person().Name)
	a.room.changed(name)
	return nil
}
