package access

import (
	"errors"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"

	"mantilla/model"
)

// plain seals nothing.
type plain struct{}

func (plain) Seal(_, text string) ([]byte, error)            { return []byte(text), nil }
func (plain) Unseal(_ string, sealed []byte) (string, error) { return string(sealed), nil }

// TestCodesGoByTime: the present one and its neighbours count, each once, as RFC 6238 has it.
func TestCodesGoByTime(t *testing.T) {
	now := time.Unix(1_111_111_109, 0)
	room := &Room{sealer: plain{}, clock: func() time.Time { return now }}
	// The secret and the codes of RFC 6238, appendix B, in six digits.
	x := model.Second{Person: "runa", Sealed: []byte("GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ")}
	step, err := room.stepOf(x, "081 804")
	if err != nil || step != 1_111_111_109/30 {
		t.Errorf("the code of the standard is of step %d, %v", step, err)
	}
	for away, good := range map[time.Duration]bool{-90 * time.Second: false, -30 * time.Second: true,
		30 * time.Second: true,
		90 * time.Second: false} {
		code, err := totp.GenerateCode(string(x.Sealed), now.Add(away))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := room.stepOf(x, code); (err == nil) != good {
			t.Errorf("a code %s away: %v", away, err)
		}
	}
	x.Step = step
	if _, err := room.stepOf(x, "081804"); !errors.Is(err, ErrCode) {
		t.Errorf("a code counts twice: %v", err)
	}
	if _, err := room.stepOf(x, ""); !errors.Is(err, ErrCode) {
		t.Errorf("no code counts: %v", err)
	}
}
