package school

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"golang.org/x/crypto/argon2"

	"hammerset/store"
)

// Parameters of argon2id as RFC 9106 recommends where memory is limited, with
// less memory and more passes.
const (
	argonTime    = 3
	argonMemory  = 32 << 10 // KiB
	argonThreads = 1
	argonKey     = 32
)

// atOnce is how many passwords are hashed at the same time: each takes 32 MB.
const atOnce = 4

// nobodysHash is no password's. It is compared with where there is no account, so that the time an answer
// takes does not tell which logins exist.
const nobodysHash = "argon2id$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"

// HashPassword hashes a password for keeping.
func HashPassword(password string) (string, error) {
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", err
	}
	encode := base64.RawStdEncoding.EncodeToString
	return "argon2id$" + encode(salt) + "$" + encode(keyOf(password, salt)), nil
}

func keyOf(password string, salt []byte) []byte {
	return argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, argonKey)
}

func checkPassword(password, hash string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 3 || parts[0] != "argon2id" {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[1])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[2])
	if err1 != nil || err2 != nil {
		return false
	}
	return subtle.ConstantTimeCompare(keyOf(password, salt), want) == 1
}

// hashed runs something that hashes a password when it is its turn.
func (s *School) hashed(ctx context.Context, f func()) error {
	select {
	case s.hashing <- struct{}{}:
		defer func() { <-s.hashing }()
		f()
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// letters of first passwords: none that look alike on paper.
const letters = "abcdefghjkmnpqrstuvwxyz23456789"

// firstPassword makes a password to be given on paper: 31^10 possibilities.
func firstPassword() (string, error) {
	var b strings.Builder
	buf := make([]byte, 1)
	for n := 0; n < 10; {
		if _, err := rand.Read(buf); err != nil {
			return "", err
		}
		if int(buf[0]) >= 256/len(letters)*len(letters) {
			continue // so that every letter is as likely
		}
		if n == 5 {
			b.WriteByte('-')
		}
		b.WriteByte(letters[int(buf[0])%len(letters)])
		n++
	}
	return b.String(), nil
}

// Slip is what somebody gets on paper to sign in with. The password is shown once and not kept.
type Slip struct {
	ID                    int64
	Name, Login, Password string
}

// slip makes a first password and its hash.
func (s *School) slip(ctx context.Context) (password, hash string, err error) {
	if password, err = firstPassword(); err != nil {
		return "", "", err
	}
	var failed error
	err = s.hashed(ctx, func() { hash, failed = HashPassword(password) })
	return password, hash, errors.Join(err, failed)
}

// ResetPassword gives somebody a new first password: an administrator anybody, an instructor
// the students of classes that are theirs.
func (s *School) ResetPassword(ctx context.Context, by Person, id int64) (Slip, error) {
	u, err := s.store.User(ctx, id)
	if err == nil {
		err = s.may(ctx, by, ResetPassword, row{person: u})
	}
	var password, hash string
	if err == nil {
		password, hash, err = s.slip(ctx)
	}
	if err == nil {
		err = s.store.SetPassword(ctx, id, hash, true, by.ID)
	}
	return Slip{ID: id, Name: u.Name, Login: u.Login, Password: password}, err
}

// The least length of a password is that of NIST SP 800-63B, 5.1.1.
const (
	leastPassword   = 8
	longestPassword = 200
)

// soundPassword refuses passwords of other lengths.
func soundPassword(next string) error {
	if n := utf8.RuneCountInString(next); n < leastPassword || n > longestPassword {
		return refuse(Faulty, fmt.Sprintf("a password has from %d to %d letters", leastPassword, longestPassword),
			"a sentence that nobody else says is a good one")
	}
	return nil
}

// ChangePassword changes the asker's own password.
func (s *School) ChangePassword(ctx context.Context, by Person, old, next string) error {
	if err := soundPassword(next); err != nil {
		return err
	}
	if strings.EqualFold(next, by.Login) || strings.EqualFold(next, by.Name) || next == old {
		return refuse(Faulty, "this password is easily guessed", "take another than your name, your login or the old one")
	}
	right, hash := false, ""
	var failed error
	err := s.hashed(ctx, func() {
		if right = checkPassword(old, by.Password); right {
			hash, failed = HashPassword(next)
		}
	})
	if err = errors.Join(err, failed); err != nil {
		return err
	}
	if !right {
		return refuse(Faulty, "the old password is wrong", "type it again")
	}
	return s.store.SetPassword(ctx, by.ID, hash, false, by.ID)
}

// Throttling of sign-in: failures within the window. Nobody can lock others out: a browser
// that somebody has signed in from before is counted by itself; guesses from one address at
// one login end for that address alone; an address with many failures, a school's perhaps,
// is slowed down and not shut.
const (
	throttleWindow = 15 * time.Minute
	throttleHere   = 8   // of a login from one address, or from one known browser
	throttleLogin  = 200 // of a login from everywhere: new browsers wait
	throttleSlow   = 60  // of an address: from then on one sign-in every two seconds
	slowPace       = 2 * time.Second
)

// throttled says how long a sign-in must wait.
func throttled(f store.Failures, known bool, now time.Time) time.Duration {
	switch {
	case known:
		if f.Device >= throttleHere {
			return throttleWindow
		}
		return 0
	case f.Here >= throttleHere || f.Login >= throttleLogin:
		return throttleWindow
	case f.Address >= throttleSlow && f.Last.Valid:
		return max(0, slowPace-now.Sub(f.Last.Time))
	}
	return 0
}

// SignIn is an attempt to sign in, from a network address and a browser (the hash of the browser's own
// token; empty where it has none).
type SignIn struct{ Login, Password, Address, Device string }

// SignIn tells who somebody is by login and password.
func (s *School) SignIn(ctx context.Context, in SignIn) (Person, error) {
	login := cleanLogin(in.Login)
	u, err := s.store.UserByLogin(ctx, login)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return Person{}, err
	}
	device, known := in.Device, false
	if device != "" && u.ID != 0 {
		if known, err = s.store.KnownDevice(ctx, device, u.ID); err != nil {
			return Person{}, err
		}
	}
	if !known {
		device = ""
	}
	now := time.Now().UTC()
	failures, err := s.store.LoginFailures(ctx, login, in.Address, device, now.Add(-throttleWindow))
	if err != nil {
		return Person{}, err
	}
	if wait := throttled(failures, known, now); wait > 0 {
		return Person{}, waiting(wait)
	}
	hash := u.Password
	if hash == "" {
		hash = nobodysHash
	}
	right := false
	if err := s.hashed(ctx, func() { right = checkPassword(in.Password, hash) }); err != nil {
		return Person{}, err
	}
	if !right || u.ID == 0 || u.Ended != nil {
		if err := s.store.AddLoginFailure(ctx, login, in.Address, device); err != nil {
			return Person{}, err
		}
		return Person{}, refuse(WrongPassword, "login or password is wrong", "check both and try again")
	}
	return u, s.store.ClearLoginFailures(ctx, login)
}

// waiting refuses a sign-in that comes too early.
func waiting(wait time.Duration) error {
	if wait <= slowPace {
		return &Refusal{Kind: TooMany, Wait: wait, What: "very many sign-ins have failed from your network",
			Remedy: "try again in a moment"}
	}
	return &Refusal{Kind: TooMany, Wait: wait, What: "too many failed sign-ins with this login from here",
		Remedy: fmt.Sprintf("wait %d minutes, or ask for a new password", int(throttleWindow.Minutes()))}
}

// KnowDevice notes that somebody has signed in from a browser, by the hash of its token.
func (s *School) KnowDevice(ctx context.Context, by Person, device string) error {
	return s.store.KeepDevice(ctx, device, by.ID)
}

// Person finds who has signed in.
func (s *School) Person(ctx context.Context, id int64) (Person, error) { return s.store.User(ctx, id) }
