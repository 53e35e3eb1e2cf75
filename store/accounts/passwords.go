package accounts

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"fmt"
	"strings"
	"unicode/utf8"

	zxcvbn "github.com/ccojocar/zxcvbn-go"
	"golang.org/x/crypto/argon2"

	"pinegate/core/words"
)

// What a password must have.
const (
	LeastPassword = 10  // characters
	MostPassword  = 200 // characters
	// leastStrength is the least score of the estimator, from 0 to 4: what is
	// below is a common password, or made of one in ways that are tried first.
	leastStrength = 1
	looked        = 72 // characters that the estimator looks at
)

// GoodPassword tells what is wrong with a password, as a [*words.Problem].
// About is what somebody would try first, such as the e-mail address.
func GoodPassword(password string, about ...string) error {
	n := utf8.RuneCountInString(password)
	switch {
	case n < LeastPassword:
		return words.New("password-short", "least", LeastPassword)
	case n > MostPassword || !utf8.ValidString(password):
		return words.New("password-long", "most", MostPassword)
	}
	head := []rune(password)
	var known []string
	for _, a := range about {
		known = append(known, strings.FieldsFunc(strings.ToLower(a), func(r rune) bool { return strings.ContainsRune("@. -_", r) })...)
	}
	if zxcvbn.PasswordStrength(string(head[:min(n, looked)]), known).Score < leastStrength {
		return words.New("password-common")
	}
	return nil
}

// Parameters of argon2id: 19 MiB and 2 passes, the least that OWASP advises.
const (
	argonTime, argonMemory, argonThreads = 2, 19 * 1024, 1
	argonKey                             = 32
)

// hashings is how many passwords are hashed at once, so that many who sign in
// together do not take all memory.
const hashings = 4

func (a *Accounts) hashPassword(ctx context.Context, password string) (string, error) {
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", fmt.Errorf("make salt: %w", err)
	}
	key, err := a.argon(ctx, password, salt, argonTime, argonMemory, argonThreads, argonKey)
	if err != nil {
		return "", err
	}
	e := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=19$m=%d,t=%d,p=%d$%s$%s", argonMemory, argonTime, argonThreads, e.EncodeToString(salt),
		e.EncodeToString(key)), nil
}

func (a *Accounts) argon(ctx context.Context, password string, salt []byte, passes, memory uint32, threads uint8, length uint32) ([]byte,
	error) {
	select {
	case a.hashing <- struct{}{}:
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	defer func() { <-a.hashing }()
	return argon2.IDKey([]byte(password), salt, passes, memory, threads, length), nil
}

// unknownHash is checked when there is nobody, so that the time taken does not
// tell.
const unknownHash = "$argon2id$v=19$m=19456,t=2,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"

// checkPassword compares a password with a hash; with "", it takes as long and
// is false.
func (a *Accounts) checkPassword(ctx context.Context, hash, password string) (bool, error) {
	known := hash != ""
	if !known {
		hash = unknownHash
	}
	parts := strings.Split(hash, "$")
	var memory, passes uint32
	var threads uint8
	if len(parts) != 6 {
		return false, fmt.Errorf("read a password hash: it has %d parts", len(parts))
	}
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &passes, &threads); err != nil {
		return false, fmt.Errorf("read a password hash: %w", err)
	}
	salt, err := base64.RawStdEncoding.DecodeString(parts[4])
	if err != nil {
		return false, fmt.Errorf("read the salt of a password: %w", err)
	}
	key, err := base64.RawStdEncoding.DecodeString(parts[5])
	if err != nil {
		return false, fmt.Errorf("read the key of a password: %w", err)
	}
	got, err := a.argon(ctx, password, salt, passes, memory, threads, uint32(len(key)))
	return known && subtle.ConstantTimeCompare(got, key) == 1, err
}
