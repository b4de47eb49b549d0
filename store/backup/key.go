package backup

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"filippo.io/age"
)

// Recipients are those for whom back-ups are encrypted: the public keys of age in a file, one a line.
// Who reads that file can open none.
func Recipients(file string) ([]age.Recipient, error) {
	in, err := os.Open(file)
	if err != nil {
		return nil, fmt.Errorf("reading for whom back-ups are encrypted: %w", err)
	}
	defer in.Close()
	all, err := age.ParseRecipients(in)
	if err != nil {
		return nil, fmt.Errorf("%s names nobody for whom back-ups can be encrypted, as lines such as age1...: %w", file, err)
	}
	return all, nil
}

// NewKey makes a key that opens back-ups, in a file that is not there yet, and returns its public
// part, for which they are encrypted.
func NewKey(file string) (public string, err error) {
	key, err := age.GenerateX25519Identity()
	if err != nil {
		return "", err
	}
	out, err := os.OpenFile(file, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return "", err
	}
	public = key.Recipient().String()
	_, err = fmt.Fprintf(out, "# Opens back-ups that are encrypted for %s. Keep it apart from them.\n%s\n", public, key)
	return public, errors.Join(err, out.Close())
}

// encrypted is how a file begins that is encrypted in the format of age.
var encrypted = []byte("age-encryption.org/")

// opened is the file of a back-up that can be read: itself, or, where it is encrypted, a file beside
// the system's temporary ones that done removes.
func opened(path, key string) (plain string, done func(), err error) {
	done = func() {}
	in, err := os.Open(path)
	if errors.Is(err, os.ErrNotExist) {
		return "", done, fmt.Errorf("there is no file %s", path)
	}
	if err != nil {
		return "", done, err
	}
	defer in.Close()
	head := make([]byte, len(encrypted))
	if n, err := io.ReadFull(in, head); err != nil || !bytes.Equal(head[:n], encrypted) {
		return path, done, nil // which is told where it is read
	}
	if key == "" {
		return "", done, fmt.Errorf("%s is encrypted; give the file of its key by --key", path)
	}
	out, err := os.CreateTemp("", "mantilla-backup")
	if err != nil {
		return "", done, err
	}
	done = func() { _ = os.Remove(out.Name()) }
	if err = errors.Join(decrypted(in, key, out), out.Close()); err != nil {
		done()
		return "", func() {}, fmt.Errorf("%s: %w", path, err)
	}
	return out.Name(), done, nil
}

func decrypted(in io.ReadSeeker, key string, out io.Writer) error {
	text, err := os.ReadFile(key)
	if err != nil {
		return fmt.Errorf("reading the key: %w", err)
	}
	keys, err := age.ParseIdentities(strings.NewReader(string(text)))
	if err != nil {
		return fmt.Errorf("%s is no key that opens back-ups: %w", key, err)
	}
	if _, err := in.Seek(0, io.SeekStart); err != nil {
		return err
	}
	plain, err := age.Decrypt(in, keys...)
	var none *age.NoIdentityMatchError
	if errors.As(err, &none) {
		return errors.New("it is encrypted for another key")
	}
	if err == nil {
		_, err = io.Copy(out, plain)
	}
	if err != nil {
		return fmt.Errorf("%w: %w", ErrNone, err)
	}
	return nil
}
