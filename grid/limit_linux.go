package grid

import "syscall"

// mostMemory is how much a process that reads a file may have.
const mostMemory = 4 << 30

func limitMemory() error {
	return syscall.Setrlimit(syscall.RLIMIT_AS, &syscall.Rlimit{Cur: mostMemory, Max: mostMemory})
}
