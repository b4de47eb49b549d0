package deliver

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"
)

// Call sends a JSON text to an address on the web. The headers tell an id,
// which is the same whenever the call is repeated, and a signature: the
// HMAC-SHA256 (RFC 2104), with the secret, of the id, a point and the text, in
// hex. Final tells that the address refused it and asking again would not help.
func Call(ctx context.Context, address, secret, id string, text []byte) (final bool, err error) {
	ctx, cancel := context.WithTimeout(ctx, 20*time.Second)
	defer cancel()
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, address, bytes.NewReader(text))
	if err != nil {
		return true, fmt.Errorf("the address %s: %w", address, err)
	}
	request.Header.Set("Content-Type", "application/json")
	request.Header.Set("Mantilla-Delivery", id)
	request.Header.Set("Mantilla-Signature", "sha256="+Signature(secret, id, text))
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		return false, fmt.Errorf("the address %s: %w", address, err)
	}
	defer answer.Body.Close()
	if answer.StatusCode < 300 {
		return false, nil
	}
	said, _ := io.ReadAll(io.LimitReader(answer.Body, 200))
	final = answer.StatusCode < 500 && answer.StatusCode != http.StatusRequestTimeout && answer.StatusCode != http.StatusTooManyRequests
	return final, fmt.Errorf("the address %s answered %s %s", address, answer.Status, strings.TrimSpace(string(said)))
}

// Signature signs a text under an id.
func Signature(secret, id string, text []byte) string {
	mac := hmac.New(sha256.New, []byte(secret))
	mac.Write([]byte(id + "."))
	mac.Write(text)
	return hex.EncodeToString(mac.Sum(nil))
}
