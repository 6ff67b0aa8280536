package app

import (
	"aspenridge/internal/blob"
	"aspenridge/internal/store"
)

// Store and Blobs are what an application of a test stands on.
func (a *App) Store() *store.Store { return a.store }
func (a *App) Blobs() *blob.Store  { return a.blobs }
