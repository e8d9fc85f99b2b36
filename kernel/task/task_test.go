package task

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"hammerset/core/check"
)

// Frames come out as they went in, one after another; a stream that is cut or
// lies about its length is an error, not a wait or a huge allocation.
func TestFrames(t *testing.T) {
	var b bytes.Buffer
	sent := []Request{{Kind: Check, Name: "a.step", File: bytes.Repeat([]byte{0, 255, 13}, 1000), CPU: 7},
		{Kind: Rebuild, Set: map[string]string{"w": "3/16 in"}}, {}}
	for i := range sent {
		if err := Write(&b, sent[i]); err != nil {
			t.Fatal(err)
		}
	}
	whole := append([]byte(nil), b.Bytes()...)
	for i := range sent {
		var got Request
		if err := Read(&b, &got); err != nil || fmt.Sprint(got) != fmt.Sprint(sent[i]) {
			t.Errorf("frame %d: %v, %v", i, got, err)
		}
	}
	if err := Read(&b, &Request{}); !errors.Is(err, io.EOF) {
		t.Errorf("after the last frame: %v", err)
	}
	for cut := 1; cut < 60; cut++ {
		if err := Read(bytes.NewReader(whole[:cut]), &Request{}); err == nil {
			t.Errorf("a frame of %d bytes of %d is read", cut, len(whole))
		}
	}
	huge := binary.BigEndian.AppendUint32(nil, 1<<31)
	if err := Read(bytes.NewReader(huge), &Request{}); err == nil || !strings.Contains(err.Error(), "too large") {
		t.Errorf("a frame of two gigabytes: %v", err)
	}
	if err := Read(strings.NewReader("\x00\x00\x00\x02[]"), &Request{}); err == nil {
		t.Error("a list is read as a request")
	}
}

// Errors keep their kind on the way: what is the student's to put right stays
// the student's.
func TestErrorsKeepTheirKind(t *testing.T) {
	for _, c := range []struct {
		err  error
		kind string
		say  string
	}{
		{&check.Unusable{What: "a picture", Remedy: "hand in the model"}, Unusable, "a picture; hand in the model"},
		{fmt.Errorf("reading: %w", &check.Unusable{What: "cut short", Remedy: "export it again"}), Unusable,
			"cut short; export it again"},
		{errors.New("no such task"), Faulty, "no such task"},
		{fmt.Errorf("worker: %w", &Error{Kind: TimedOut, What: "too long"}), TimedOut, "too long"},
	} {
		if e := AsError(c.err); e.Kind != c.kind || e.Error() != c.say {
			t.Errorf("%v becomes %s: %s", c.err, e.Kind, e)
		}
	}
}
