package app

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/google/uuid"

	"aspenridge/internal/act"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/store"
)

// documents reads the documents of a workspace: as they are, or as a change
// would leave them.
type documents interface {
	Document(ctx context.Context, id ID) (store.Document, error)
}

// changed is the documents of a workspace with one of them as it will be.
type changed struct {
	store.Reader
	id  ID
	doc store.Document
}

func (c changed) Document(ctx context.Context, id ID) (store.Document, error) {
	if id == c.id {
		return c.doc, nil
	}
	return c.Reader.Document(ctx, id)
}

// check is asked by the store before any change, from inside of its
// transaction: whatever the change is (an edit, an undo, a restored version),
// what it leaves can be read, and so can every kit that takes over from it; and
// it names no file that is not the workspace's.
func (a *house) check(ctx context.Context, r store.Reader, c store.Checked) error {
	d := c.Document
	if err := act.May(c.By, writes[d.Kind]); err != nil { // whichever service it came by
		return err
	}
	err := a.readable(ctx, r, d, c.After)
	if err == nil && d.Kind == "kit" && d.ID != (ID{}) {
		err = a.followersRead(ctx, r, d, c.After)
	}
	if err == nil {
		err = ownFiles(ctx, r, c)
	}
	if err == nil {
		err = safeName(c)
	}
	if err == nil {
		err = ownKits(c)
	}
	if err == nil {
		err = a.railed(ctx, r, c)
	}
	if err != nil && !errors.Is(err, ErrInvalid) && isAboutDocument(err) {
		err = fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	return err
}

// documentError is what is wrong with a document, as against a database that
// does not answer.
type documentError struct{ error }

func (e documentError) Unwrap() error { return e.error }

func isAboutDocument(err error) bool { return errors.As(err, new(documentError)) }

func wrong(err error) error {
	if err == nil {
		return nil
	}
	return documentError{err}
}

// readable reads a document as it would be; the error says what is wrong with
// it.
func (a *house) readable(ctx context.Context, docs documents, d store.Document, doc *edit.Object) error {
	switch d.Kind {
	case "kit":
		s, err := joinParents(ctx, docs, d.ID, doc)
		if err != nil {
			return err
		}
		if s.parent != nil {
			if err := brand.Limits.Check(doc); err != nil {
				return wrong(fmt.Errorf("%w: %w", brand.ErrKit, err))
			}
		}
		_, err = s.kit()
		return wrong(err)
	case "channels":
		data, err := edit.Marshal(doc)
		if err == nil {
			_, err = spec.ParseChannels(data)
		}
		if err == nil {
			err = channelLimits.Check(doc)
		}
		return wrong(err)
	}
	_, err := parseBrief(doc)
	return wrong(err)
}

// channelLimits are how much the document of own channels may say besides what
// [spec.ParseChannels] checks.
var channelLimits = edit.Limits{
	{Path: "/combinations", Most: 100}, {Path: "/combinations/*/name", Most: 60}, {Path: "/combinations/*/placements", Most: 200},
	{Path: "/channels/*/placements/*/name", Most: 120},
}

// followersRead reads every kit that follows one as it would be.
func (a *house) followersRead(ctx context.Context, r store.Reader, d store.Document, after *edit.Object) error {
	followers, err := r.Followers(ctx, d.ID)
	if err != nil {
		return err
	}
	d.Doc = raw(after)
	docs := changed{r, d.ID, d}
	for _, f := range followers {
		doc, err := edit.ParseObject(f.Doc)
		if err != nil {
			continue // it cannot be read as it is; this change is not to blame
		}
		if err := a.readable(ctx, docs, f, doc); err != nil {
			if before, err := edit.ParseObject(f.Doc); err == nil && a.readable(ctx, r, f, before) != nil {
				continue
			}
			if !isAboutDocument(err) && !errors.Is(err, ErrInvalid) {
				return err
			}
			return wrong(fmt.Errorf("%s takes over from this kit and could not be read any more: %w", orNew(f.Name), err))
		}
	}
	return nil
}

// storedFile is how documents name a file of a workspace.
var storedFile = regexp.MustCompile(`^[0-9a-f]{64}(/|$)`)

// filesNamed are the hashes of the stored files a document names, wherever.
func filesNamed(v any, into map[string]bool) {
	switch v := v.(type) {
	case string:
		if storedFile.MatchString(v) {
			into[HashOf(v)] = true
		}
	case []any:
		for _, m := range v {
			filesNamed(m, into)
		}
	case *edit.Object:
		if v == nil {
			return
		}
		for _, k := range v.Keys() {
			filesNamed(v.Get(k), into)
		}
	}
}

// safeName refuses a name with breaks or with signs that turn around what stands beside it: it
// stands in lists, headings and mails.
func safeName(c store.Checked) error {
	before, after := documentName(c.Document.Kind, c.Before), documentName(c.Document.Kind, c.After)
	if after != before && strings.ContainsFunc(after, plain.Misleads) {
		return wrong(errors.New("a name is one line of letters, without signs that turn the direction of text; type it instead of pasting it"))
	}
	return nil
}

// documentName is what a document calls itself.
func documentName(kind string, doc *edit.Object) string {
	if doc == nil {
		return ""
	}
	if kind == "kit" {
		return kitName(doc)
	}
	s, _ := doc.Get("name").(string)
	return s
}

// setSafeName makes the name of a document from elsewhere one plain line.
func setSafeName(in *edit.Object) {
	if s, ok := in.Get("name").(string); ok && strings.ContainsFunc(s, plain.Misleads) {
		in.Set("name", plain.Line(s))
	}
}

// ownKits refuses somebody who sees only some kits to have one follow another that is not there
// for them: they would read it so.
func ownKits(c store.Checked) error {
	parent := func(doc *edit.Object) string {
		if doc == nil {
			return ""
		}
		s, _ := brand.Own(doc).Get("parent").(string)
		return s
	}
	to := parent(c.After)
	if c.Document.Kind != "kit" || !c.By.Narrowed || to == "" || to == parent(c.Before) {
		return nil
	}
	if id, err := uuid.Parse(to); err != nil || !seesKit(c.By, id) {
		return ErrNotFound
	}
	return nil
}

// ownFiles refuses a file a change brings in that the workspace does not have, or that is not
// there for somebody who sees only some of it: knowing a hash is no right to what it is of.
func ownFiles(ctx context.Context, r store.Reader, c store.Checked) error {
	had, has := map[string]bool{}, map[string]bool{}
	filesNamed(c.Before, had)
	filesNamed(c.After, has)
	var added []string
	for h := range has {
		if !had[h] {
			added = append(added, h)
		}
	}
	if len(added) == 0 {
		return nil
	}
	slices.Sort(added)
	lacking, err := r.Lacking(ctx, added)
	if err != nil {
		return err
	}
	if len(lacking) == 0 && c.By.Narrowed {
		if lacking, err = r.Unseen(ctx, c.By, added); err != nil {
			return err
		}
	}
	if len(lacking) > 0 {
		return wrong(fmt.Errorf("the file %.8s… is not in this workspace; take it in first", lacking[0]))
	}
	return nil
}
