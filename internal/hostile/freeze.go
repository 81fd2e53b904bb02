package main

import (
	"bytes"
	"compress/zlib"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
)

// freeze stops the database's processes by a signal, and gives how to go on.
func (h *target) freeze() (thaw func(), err error) {
	raw, err := os.ReadFile(filepath.Join(h.cluster.Data, "postmaster.pid"))
	if err != nil {
		return nil, err
	}
	first, _, _ := strings.Cut(string(raw), "\n")
	master, err := strconv.Atoi(strings.TrimSpace(first))
	if err != nil {
		return nil, err
	}
	pids := []int{master}
	out, err := exec.Command("ps", "-o", "pid=", "--ppid", fmt.Sprint(master)).Output()
	if err != nil {
		return nil, err
	}
	for field := range strings.FieldsSeq(string(out)) {
		if pid, err := strconv.Atoi(field); err == nil {
			pids = append(pids, pid)
		}
	}
	tell := func(s syscall.Signal) {
		for _, pid := range pids {
			syscall.Kill(pid, s)
		}
	}
	tell(syscall.SIGSTOP)
	return func() { tell(syscall.SIGCONT) }, nil
}

func zlibOf(raw []byte) []byte {
	var out bytes.Buffer
	w, _ := zlib.NewWriterLevel(&out, zlib.BestCompression)
	w.Write(raw)
	w.Close()
	return out.Bytes()
}
