package apart

import (
	"fmt"
	"os"
)

// held is how many bytes of memory a process holds; 0 where it has ended (proc(5), statm).
func held(pid int) int64 {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/statm", pid))
	if err != nil {
		return 0
	}
	var size, resident int64
	if _, err := fmt.Sscan(string(text), &size, &resident); err != nil {
		return 0
	}
	return resident * int64(os.Getpagesize())
}
