module aspenridge

go 1.26.8

require (
	github.com/davidbyttow/govips/v2 v2.16.0
	github.com/go-text/typesetting v0.3.3
	github.com/lucasb-eyer/go-colorful v1.4.1
	golang.org/x/image v0.47.0
)

require (
	golang.org/x/net v0.25.0 // indirect
	golang.org/x/sys v0.49.0 // indirect
	golang.org/x/text v0.44.0 // indirect
)
