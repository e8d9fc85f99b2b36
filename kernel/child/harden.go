package child

import (
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/landlock-lsm/go-landlock/landlock"
	"golang.org/x/sys/unix"

	"hammerset/kernel/task"
)

// nobody is the unprivileged user and group that a child becomes when it was
// started as root.
const nobody = 65534

// Harden takes from the process what it does not need: files, network, core
// dumps, further memory and, where it has them, the rights of root. It must be
// called before any submitted data is read.
func Harden(memory uint64) error {
	limits := []struct {
		what  int
		value uint64
	}{{unix.RLIMIT_AS, memory}, {unix.RLIMIT_CORE, 0}, {unix.RLIMIT_FSIZE, 0}, {unix.RLIMIT_NOFILE, 64}}
	for _, l := range limits {
		if err := unix.Setrlimit(l.what, &unix.Rlimit{Cur: l.value, Max: l.value}); err != nil {
			return fmt.Errorf("limit %d: %w", l.what, err)
		}
	}
	// Best effort: a system without Landlock still has the limits, the network
	// namespace and the unprivileged user.
	if err := landlock.V5.BestEffort().Restrict(); err != nil {
		return fmt.Errorf("landlock: %w", err)
	}
	if os.Getuid() == 0 {
		if err := syscall.Setgroups([]int{}); err != nil {
			return fmt.Errorf("groups: %w", err)
		}
		if err := syscall.Setresgid(nobody, nobody, nobody); err != nil {
			return fmt.Errorf("group: %w", err)
		}
		if err := syscall.Setresuid(nobody, nobody, nobody); err != nil {
			return fmt.Errorf("user: %w", err)
		}
	}
	return nil
}

// endWhenOutOfTime ends the process when its processor time is used up. Go itself ignores the signal that says so.
func endWhenOutOfTime() {
	over := make(chan os.Signal, 1)
	signal.Notify(over, unix.SIGXCPU)
	go func() {
		<-over
		os.Exit(task.OutOfTime)
	}()
}

// allowCPU lets the process use the given seconds of processor time from now on;
// the system signals when they are used up.
func allowCPU(seconds int) error {
	var u unix.Rusage
	if err := unix.Getrusage(unix.RUSAGE_SELF, &u); err != nil {
		return err
	}
	used := uint64(u.Utime.Sec + u.Stime.Sec)
	var old unix.Rlimit
	if err := unix.Getrlimit(unix.RLIMIT_CPU, &old); err != nil {
		return err
	}
	return unix.Setrlimit(unix.RLIMIT_CPU, &unix.Rlimit{Cur: used + uint64(max(seconds, 1)) + 1, Max: old.Max})
}
