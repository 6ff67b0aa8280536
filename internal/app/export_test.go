package app

import (
	"archive/zip"
	"context"
	"time"

	"aspenridge/internal/blob"
	"aspenridge/internal/store"
)

// Store and Blobs are what an application of a test stands on.
func (a *App) Store() *store.Store { return a.store }
func (a *App) Blobs() *blob.Store  { return a.blobs }

// SetClock sets the time.
func (a *App) SetClock(now func() time.Time) { a.clock = now }

// ReadMoved reads what an archive says of itself.
func ReadMoved(z *zip.Reader) error { _, err := readMoved(z); return err }

// Forget lets go of the sets that are kept in memory.
func (a *App) Forget() { a.seenSets.Forget() }

// RefreshPictures and Tidy are what is done over and over.
func (a *App) RefreshPictures(ctx context.Context) error { return a.refreshPictures(ctx) }
func (a *App) Tidy(ctx context.Context) error            { return a.tidy(ctx) }

// Post and Tell write and send mail.
func (a *App) Post(ctx context.Context) error { return a.people.Post(ctx) }
func (a *App) Tell(ctx context.Context) error { return a.mailNews(ctx) }
