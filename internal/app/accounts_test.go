package app_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"

	"aspenridge/internal/account"
	"aspenridge/internal/app"
)

// sent is a mail server that keeps what it is given.
type sent struct {
	mu    sync.Mutex
	mails []string // "to\nsubject\nbody"
}

func (s *sent) Send(_ context.Context, to, subject, body string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.mails = append(s.mails, to+"\n"+subject+"\n"+body)
	return nil
}

// to are the mails to an address since the last time that was asked.
func (s *sent) take() []string {
	s.mu.Lock()
	defer s.mu.Unlock()
	out := s.mails
	s.mails = nil
	return out
}

// tokenIn is the token of the link in a mail.
func tokenIn(t *testing.T, mail, way string) string {
	t.Helper()
	_, rest, ok := strings.Cut(mail, way)
	if !ok {
		t.Fatalf("no link in %q", mail)
	}
	token, _, _ := strings.Cut(rest, "\n")
	return token
}

// TestAnAddressIsTakenByWhoConfirmsIt: whoever signs up with somebody's address before them does
// not keep them out, hears nothing of them, and is gone in a day.
func TestAnAddressIsTakenByWhoConfirmsIt(t *testing.T) {
	t.Parallel()
	a, _, _, _ := open(t)
	ctx, now, box := t.Context(), time.Now().Add(time.Minute), &sent{}
	a.SetClock(func() time.Time { return now })
	a.People.Mailer = box
	const address, way = "nell@owner.example", "https://kit.example/confirm/"
	var squatters []app.Member
	for i := range 5 {
		m, err := a.People.SignUp(ctx, "Squatter", address, fmt.Sprint("not the owner at all ", i))
		if err != nil {
			t.Fatalf("sign-up %d: %v", i, err)
		}
		squatters = append(squatters, m)
	}
	nell, err := a.People.SignUp(ctx, "Nell", strings.ToUpper(address), "otter pond at dusk")
	if err != nil {
		t.Fatalf("the owner of the address: %v", err)
	}
	for i, m := range append(squatters, nell) { // all of them are let in, each into their own
		word := fmt.Sprint("not the owner at all ", i)
		if m.ID == nell.ID {
			word = "otter pond at dusk"
		}
		if in, err := a.People.SignIn(ctx, address, word); err != nil || in.ID != m.ID {
			t.Errorf("account %d: %v, %v", i, in.ID, err)
		}
	}
	salts := map[string]bool{}
	users, err := a.Store().UsersByEmail(ctx, address, 100)
	if err != nil || len(users) != 6 {
		t.Fatalf("%d accounts, %v", len(users), err)
	}
	for _, u := range users {
		_, salt, _, err := argon2id.DecodeHash(u.PasswordHash)
		if err != nil {
			t.Fatal(err)
		}
		salts[string(salt)] = true
	}
	if len(salts) != 1 {
		t.Errorf("signing in takes %d hashes", len(salts))
	}

	if err := a.People.AskConfirm(ctx, nell, way); err != nil {
		t.Fatal(err)
	}
	if err := a.Post(ctx); err != nil {
		t.Fatal(err)
	}
	mails := box.take()
	if len(mails) != 1 || !strings.HasPrefix(mails[0], strings.ToUpper(address)+"\n") {
		t.Fatalf("%q", mails)
	}
	token := tokenIn(t, mails[0], way)
	if err := a.People.Confirm(ctx, token); err != nil {
		t.Fatal(err)
	}
	if err := a.People.Confirm(ctx, token); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("a second time: %v", err)
	}
	if in, err := a.People.SignIn(ctx, address, "otter pond at dusk"); err != nil || in.ID != nell.ID {
		t.Errorf("the owner: %v", err)
	}
	if _, err := a.People.SignIn(ctx, address, "not the owner at all 0"); !errors.Is(err, account.ErrSignIn) {
		t.Errorf("a squatter after the address was confirmed: %v", err)
	}

	// signing up once more is answered alike, by a mail that says there is an account
	again, err := a.People.SignUp(ctx, "Nell", address, "another pond at dawn")
	if err != nil || again.ID == nell.ID {
		t.Fatal(again.ID, err)
	}
	if err := a.People.AskConfirm(ctx, again, way); err != nil {
		t.Fatal(err)
	}
	if err := a.Post(ctx); err != nil {
		t.Fatal(err)
	}
	if mails := box.take(); len(mails) != 1 || strings.Contains(mails[0], way) {
		t.Errorf("%q", mails)
	}
	now = now.Add(account.LapseTime + time.Minute)
	if err := a.Tidy(ctx); err != nil {
		t.Fatal(err)
	}
	for i, m := range append(squatters, again) {
		if _, err := a.People.Member(ctx, m.ID, app.ID{}); !errors.Is(err, app.ErrNotFound) {
			t.Errorf("after a day account %d is there: %v", i, err)
		}
	}
	if in, err := a.People.SignIn(ctx, address, "otter pond at dusk"); err != nil || in.ID != nell.ID {
		t.Errorf("the owner after a day: %v", err)
	}
}

// TestAMailboxFilledByStrangers: an address gets few mails about accounts it did not ask for.
func TestAMailboxFilledByStrangers(t *testing.T) {
	t.Parallel()
	a, _, _, _ := open(t)
	ctx, box := t.Context(), &sent{}
	a.People.Mailer = box
	for i := range 12 {
		m, err := a.People.SignUp(ctx, "Stranger", "victim@owner.example", fmt.Sprint("a password of mine ", i))
		if err != nil {
			t.Fatal(err)
		}
		if err := a.People.AskConfirm(ctx, m, "https://kit.example/confirm/"); err != nil {
			t.Fatal(err)
		}
	}
	if err := a.Post(ctx); err != nil {
		t.Fatal(err)
	}
	if n := len(box.take()); n == 0 || n > 3 {
		t.Errorf("%d mails", n)
	}
}

// guessing is an application whose clock goes on as guesses wait.
func guessing(t *testing.T) (a *app.App, now *time.Time) {
	t.Helper()
	a, _, _, _ = open(t)
	at := time.Now().Add(time.Minute) // after what the database says it is
	now = &at
	a.SetClock(func() time.Time { return *now })
	a.People.Pause = func(_ context.Context, d time.Duration) error { *now = now.Add(d); return nil }
	return a, now
}

// TestTenThousandGuesses: from 50 networks, over a day, few of 10,000 guesses of a password and of
// a code are looked at, the owner hears of it, and whoever knows the secret is let in at the first
// try, from the browser they used before and from a network nobody has seen.
func TestTenThousandGuesses(t *testing.T) {
	t.Parallel()
	for of, most := range map[string]int{account.GuessPassword: 1500, account.GuessCode: 800} {
		t.Run(of, func(t *testing.T) {
			t.Parallel()
			a, now := guessing(t)
			ctx, box := t.Context(), &sent{}
			a.People.Mailer = box
			nell, err := a.People.SignUp(ctx, "Nell", "nell@owner.example", "otter pond at dusk")
			if err != nil {
				t.Fatal(err)
			}
			confirmed(t, a, box, nell)
			session, err := a.People.BeginSession(ctx, nell.ID, "a computer", "192.0.2.1")
			if err != nil {
				t.Fatal(err)
			}
			whose := nell.Email
			if of == account.GuessCode {
				whose = nell.ID.String()
			}
			looked, end := 0, now.Add(24*time.Hour)
			wrong := func() error { looked++; return account.ErrSignIn }
			right := func() error { return nil }
			for i := range 10000 {
				*now = now.Add(time.Second)
				g := account.Guess{Of: of, Whose: whose, Network: fmt.Sprint("198.51.100.", i%50)}
				if err := a.People.Try(ctx, g, wrong); !errors.Is(err, account.ErrSignIn) && !errors.Is(err, account.ErrTries) {
					t.Fatal(err)
				}
				if i%2500 == 2499 {
					for name, g := range map[string]account.Guess{
						"the browser of before, in an attacked network": {Of: of, Whose: whose, Network: "198.51.100.7", Browser: session},
						"a network nobody has seen":                     {Of: of, Whose: whose, Network: fmt.Sprint("203.0.113.", i%250)},
					} {
						if err := a.People.Try(ctx, g, right); err != nil {
							t.Errorf("after %d guesses, %s: %v", i+1, name, err)
						}
					}
				}
			}
			if looked > most || now.After(end) {
				t.Errorf("%d guesses were looked at in %v", looked, 24*time.Hour-end.Sub(*now))
			}
			t.Logf("%d of 10,000 guesses were looked at", looked)
			if err := a.Post(ctx); err != nil {
				t.Fatal(err)
			}
			told := 0
			for _, m := range box.take() {
				if strings.Contains(m, "wrong") {
					told++
				}
			}
			if told != 1 {
				t.Errorf("the owner was told %d times in a day", told)
			}
		})
	}
}

// confirmed has the address of an account confirmed by mail.
func confirmed(t *testing.T, a *app.App, box *sent, m app.Member) {
	t.Helper()
	const way = "https://kit.example/confirm/"
	if err := a.People.AskConfirm(t.Context(), m, way); err != nil {
		t.Fatal(err)
	}
	if err := a.Post(t.Context()); err != nil {
		t.Fatal(err)
	}
	mails := box.take()
	if err := a.People.Confirm(t.Context(), tokenIn(t, mails[len(mails)-1], way)); err != nil {
		t.Fatal(err)
	}
}

// TestCountersStandApart: failed guesses of one secret are not forgotten by way of another: by
// signing in elsewhere, by a guess that was none, by the name of a code given as an address.
func TestCountersStandApart(t *testing.T) {
	t.Parallel()
	a, now := guessing(t)
	ctx := t.Context()
	try := func(g account.Guess, err error) time.Duration {
		t.Helper()
		g.Network = "198.51.100.7"
		before := *now
		if err := a.People.Try(ctx, g, func() error { return err }); errors.Is(err, account.ErrTries) {
			return time.Hour
		}
		return now.Sub(before)
	}
	code := account.Guess{Of: account.GuessCode, Whose: "6f0c"}
	var last time.Duration
	for range 9 {
		last = try(code, account.ErrSignIn)
	}
	if last == 0 {
		t.Fatal("nine wrong codes are not slowed")
	}
	for name, g := range map[string]account.Guess{
		"an account of one's own":     {Of: account.GuessPassword, Whose: "mine@owner.example"},
		"the code's name as address":  {Of: account.GuessPassword, Whose: "code 6f0c"},
		"the account's id as address": {Of: account.GuessPassword, Whose: "6f0c"},
		"a link of one's own":         {Of: account.GuessLink, Whose: "6f0c"},
	} {
		for _, err := range []error{nil, app.ErrInvalid} {
			try(g, err)
		}
		if next := try(code, app.ErrInvalid); next < last {
			t.Errorf("%s: the next code waits %v, the one before %v", name, next, last)
		}
	}
	// the right one is a proof
	*now = now.Add(time.Hour)
	if err := a.People.Try(ctx, account.Guess{Of: account.GuessCode, Whose: "6f0c", Network: "198.51.100.7"}, func() error { return nil }); err != nil {
		t.Fatal(err)
	}
	if next := try(code, account.ErrSignIn); next != 0 {
		t.Errorf("after the right code the next one waits %v", next)
	}
}

// TestWrongPasswordsEndASession: five wrong ones, said one after the other or at the same moment.
func TestWrongPasswordsEndASession(t *testing.T) {
	t.Parallel()
	a, m, _, _ := open(t)
	ctx := t.Context()
	begin := func() app.Member {
		t.Helper()
		id, err := a.People.BeginSession(ctx, m.ID, "a computer", "192.0.2.1")
		if err != nil {
			t.Fatal(err)
		}
		in, err := a.People.MemberIn(ctx, m.ID, m.Workspace, id)
		if err != nil {
			t.Fatal(err)
		}
		return in
	}
	one := begin()
	for i := range 5 {
		err := a.People.Again(ctx, one, fmt.Sprint("wrong ", i))
		if over := errors.Is(err, account.ErrSessionOver); err == nil || over != (i == 4) {
			t.Errorf("wrong password %d: %v", i+1, err)
		}
	}
	if _, err := a.People.MemberIn(ctx, m.ID, m.Workspace, one.Session); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("the session goes on: %v", err)
	}
	two := begin()
	var wg sync.WaitGroup
	var mu sync.Mutex
	looked := 0
	for i := range 30 {
		wg.Go(func() {
			err := a.People.Again(ctx, two, fmt.Sprint("wrong ", i))
			mu.Lock()
			defer mu.Unlock()
			if err == nil || !errors.Is(err, account.ErrSessionOver) {
				looked++
			}
		})
	}
	wg.Wait()
	if looked > 5 {
		t.Errorf("%d passwords said at once were looked at", looked)
	}
}

// TestIdleSessions: a month, half a day for who owns something and has codes asked for.
func TestIdleSessions(t *testing.T) {
	t.Parallel()
	a, m, _, _ := open(t)
	ctx := t.Context()
	id, err := a.People.BeginSession(ctx, m.ID, "a computer", "192.0.2.1")
	if err != nil {
		t.Fatal(err)
	}
	open := func() bool {
		_, err := a.People.MemberIn(ctx, m.ID, m.Workspace, id)
		return err == nil
	}
	seen := func(ago string) {
		t.Helper()
		if _, err := a.Store().Pool.Exec(ctx, `update user_sessions set seen_at = now() - $2::interval where id = $1`, id, ago); err != nil {
			t.Fatal(err)
		}
	}
	for _, c := range []struct {
		ago   string
		codes bool
		want  bool
	}{{"29 days", false, true}, {"31 days", false, false}, {"11 hours", true, true}, {"13 hours", true, false}} {
		secret := []byte(nil)
		if c.codes {
			secret = []byte("secret")
		}
		if err := a.Store().SetCodes(ctx, m.ID, secret, 0, nil); err != nil {
			t.Fatal(err)
		}
		if seen(c.ago); open() != c.want {
			t.Errorf("after %s, codes %v: open %v", c.ago, c.codes, !c.want)
		}
	}
}

// TestUsualPasswords: those of the list, with what people put around them, and rows of keys.
func TestUsualPasswords(t *testing.T) {
	t.Parallel()
	a, _, _, _ := open(t)
	for i, word := range []string{"qwertyuiop", "1234567890", "password123", "iloveyou2!", "Sunshine2027!", "asdfghjkl;", "aspenridge1", "basketball", "1q2w3e4r5t", "aaaaaaaaaab", "mnbvcxzlkj"} {
		_, err := a.People.SignUp(t.Context(), "Nell", fmt.Sprintf("usual%d@owner.example", i), word)
		if usual := errors.Is(err, app.ErrInvalid); usual != (word != "mnbvcxzlkj") {
			t.Errorf("%q: %v", word, err)
		}
	}
}

// TestNamesInMails: what people call themselves and their things stands quoted in one line, makes
// no link, and is not the subject.
func TestNamesInMails(t *testing.T) {
	t.Parallel()
	a, m, _, _ := open(t)
	ctx := t.Context()
	const name = "Bank Support,\r\nyour account is locked, go to https://evil.example/login or www.evil.example \u202e"
	long := strings.Repeat("a", 200)
	if _, err := a.People.SignUp(ctx, long, "long@owner.example", "otter pond at dusk"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("a name of 200 letters: %v", err)
	}
	for _, bad := range []string{name, "Bank \x1b[31m\u2066Support"} {
		p, err := a.People.SignUp(ctx, bad[:min(len(bad), 78)], fmt.Sprintf("n%d@owner.example", len(bad)), "otter pond at dusk")
		if err != nil {
			t.Fatal(err)
		}
		if strings.ContainsAny(p.Name, "\r\n\x00\x1b\u202e\u2066") {
			t.Errorf("kept as %q", p.Name)
		}
	}
	if err := a.People.Rename(ctx, m, "Go to evil.example now"); err != nil {
		t.Fatal(err)
	}
	if err := a.Team.Rename(ctx, m, "Prize http://evil.example/x"); err != nil {
		t.Fatal(err)
	}
	m, err := a.People.Member(ctx, m.ID, m.Workspace)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Team.Invite(ctx, m, app.Asked{Email: "new@owner.example", Role: "editor"}, "https://kit.example/join/"); err != nil {
		t.Fatal(err)
	}
	mails, err := a.Team.Mailbox(ctx, m)
	if err != nil || len(mails) != 1 {
		t.Fatal(mails, err)
	}
	whole := mails[0].Subject + "\n" + strings.ReplaceAll(mails[0].Body, "https://kit.example/join/", "")
	for _, bad := range []string{"evil.example", "://"} {
		if strings.Contains(whole, bad) {
			t.Errorf("%q stands in the mail:\n%s", bad, whole)
		}
	}
	if !strings.Contains(whole, "“Go to evil[.]example now”") || strings.Contains(mails[0].Subject, "evil") {
		t.Errorf("%s", whole)
	}
}

// TestInvitationsAreFew: 20 a day until somebody has come, of a workspace and of a network; no
// second mail to an address that has not answered.
func TestInvitationsAreFew(t *testing.T) {
	t.Parallel()
	a, m, _, _ := open(t)
	ctx, now := t.Context(), time.Now()
	a.SetClock(func() time.Time { return now })
	invite := func(m app.Member, email, network string) error {
		_, err := a.Team.Invite(ctx, m, app.Asked{Email: email, Role: "viewer", Network: network}, "https://kit.example/join/")
		return err
	}
	made := 0
	for i := range 40 {
		if err := invite(m, fmt.Sprintf("a%d@else.example", i), "192.0.2.1"); err == nil {
			made++
		} else if !errors.Is(err, app.ErrInvalid) {
			t.Fatal(err)
		}
	}
	if made != 20 {
		t.Errorf("%d invitations in a day", made)
	}
	other, err := a.People.SignUp(ctx, "Other", "other@owner.example", "otter pond at dusk")
	if err != nil {
		t.Fatal(err)
	}
	if err := invite(other, "b@else.example", "192.0.2.1"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("another workspace of the same network: %v", err)
	}
	if err := invite(other, "a0@else.example", "192.0.2.2"); err != nil {
		t.Error(err)
	}
	if mails, err := a.Team.Mailbox(ctx, other); err != nil || len(mails) != 0 {
		t.Errorf("an address that has not answered gets %d more mails, %v", len(mails), err)
	}
	now = now.Add(25 * time.Hour)
	if err := invite(m, "a0@else.example", "192.0.2.3"); err != nil {
		t.Errorf("the next day: %v", err)
	}
	if err := invite(m, "a0@else.example", "192.0.2.3"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("twice in a day: %v", err)
	}
}

// TestCodesDemandedOfATeam: who has none is asked to set them up, and is told nothing of the
// workspace before.
func TestCodesDemandedOfATeam(t *testing.T) {
	t.Parallel()
	a, m, _, _ := open(t)
	ctx := t.Context()
	ida := colleague(t, a, m, "ida@owner.example", "editor")
	if err := a.Team.DemandCodes(ctx, ida, true); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("an editor: %v", err)
	}
	if err := a.Team.DemandCodes(ctx, m, true); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("an owner without codes: %v", err)
	}
	if err := a.Store().SetCodes(ctx, m.ID, []byte("secret"), 0, nil); err != nil {
		t.Fatal(err)
	}
	if err := a.Team.DemandCodes(ctx, m, true); err != nil {
		t.Fatal(err)
	}
	for who, want := range map[app.ID]bool{m.ID: false, ida.ID: true} {
		in, err := a.People.Member(ctx, who, m.Workspace)
		if err != nil || in.WantsCodes != want {
			t.Errorf("%s wants codes %v, %v", in.Name, in.WantsCodes, err)
		}
	}
	if on, lack, err := a.Team.CodesDemanded(ctx, m); err != nil || !on || lack != 1 {
		t.Error(on, lack, err)
	}
}

// TestSignUpsOfOneMomentWaitForEachOther: a full class that signs up at once is let in, nobody is
// sent away as too many.
func TestSignUpsOfOneMomentWaitForEachOther(t *testing.T) {
	t.Parallel()
	a, _, _, _ := open(t)
	done := make(chan error)
	for i := range 8 {
		go func() {
			_, err := a.People.SignUp(t.Context(), "Somebody", fmt.Sprintf("pupil%d@school.example", i), "otter pond at dusk")
			done <- err
		}()
	}
	for range 8 {
		if err := <-done; err != nil {
			t.Error(err)
		}
	}
}
