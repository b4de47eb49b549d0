package deliver

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
)

// Put writes a file into a folder below a root. It appears whole or not at
// all; one of the same name is replaced, so that putting it again is no harm.
func Put(root, folder, name string, data []byte) (err error) {
	if !filepath.IsLocal(folder) || filepath.Base(name) != name {
		return fmt.Errorf("the folder %q does not lie below the folder that the service writes to", folder)
	}
	dir := filepath.Join(root, folder)
	if err := os.MkdirAll(dir, 0o750); err != nil {
		return fmt.Errorf("making the folder: %w", err)
	}
	// A try that was cut off leaves a part, which the next try overwrites.
	part, err := os.OpenFile(filepath.Join(dir, "."+name+".part"), os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o640)
	if err != nil {
		return fmt.Errorf("writing into the folder: %w", err)
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, os.Remove(part.Name()))
		}
	}()
	_, err = part.Write(data)
	if err = errors.Join(err, part.Sync(), part.Close()); err != nil {
		return fmt.Errorf("writing into the folder: %w", err)
	}
	return os.Rename(part.Name(), filepath.Join(dir, name))
}
