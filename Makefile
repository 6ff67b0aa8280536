# make demo   serve the demo on loopback; installs what is missing first
# make test   everything that must hold, in well under 15 minutes on 2 cores
.PHONY: demo journeys test bench bench-safe bench-kill shots sheets build assets

# the flags keep the C libraries' memory in bounds under many threads
export MALLOC_ARENA_MAX = 2

demo:
	@scripts/setup
	@go build -o bin/aspenridge ./cmd/aspenridge
	@url=$$(scripts/postgres start) && exec bin/aspenridge demo -database "$$url"

test:
	@scripts/setup --tests
	@scripts/postgres start >/dev/null
	go vet ./...
	go test -vet=off -ldflags="-s -w" -timeout 25m ./test/browser ./internal/app ./internal/reel ./internal/web ./test ./test/hostile ./... # the longest first: two packages run at a time

bench:
	@scripts/setup --tests
	@scripts/postgres start >/dev/null
	go test -run '^$$' -bench . -benchtime 2s ./...

# the server and the database killed over and over while people edit: nothing is
# lost, nothing is made twice
bench-kill:
	@scripts/setup --tests
	@scripts/postgres start >/dev/null
	go run ./test/kill

# the pictures of docs/screenshots, from a demo of their own
shots:
	@scripts/setup --tests
	@scripts/postgres start >/dev/null
	go run ./test/shots -out docs/screenshots

# the contact sheet of all layouts; with PHOTOS=folder (scripts/setup --photos makes
# one) sheets of very different kits in var/sheets instead
sheets:
ifdef PHOTOS
	mkdir -p var/sheets
	go run ./test/sheets -out var/sheets -kits all -photos $(PHOTOS) -places feed-square,feed-tall,story,feed-wide,video-thumbnail,email-header,ad-160x600
else
	go run ./test/sheets -out docs/screenshots/sheet.png -height 150 -columns 2 -places feed-square,feed-tall,video-thumbnail,ad-160x600,ad-728x90
endif

# thousands of pieces measured on their pixels, sweeps whole of which make test takes a share, a hundred thousand damaged files of
# each kind (a thousand films), an hour of every fuzz test (FUZZ_TIME=10m for less)
bench-safe:
	@scripts/setup --tests
	@scripts/postgres start >/dev/null
	SAFE_PIECES=4000 go test -timeout 60m -run TestWordsOnPixels -count 1 ./test/
	SWEEP=all go test -timeout 60m -count 1 ./test/browser ./internal/core/layout ./internal/raster ./test/hostile
	HOSTILE_FILES=100000 go test -timeout 12h -run Damaged -count 1 -v ./test/hostile/
	scripts/fuzz

build:
	go build -o bin/aspenridge ./cmd/aspenridge

# styles, scripts, fonts and icons; what they build is committed
assets:
	cd web && npm ci && npm run build

# what people come for, at the pace of a hand, on three widths and two lines: how long it takes
journeys:
	@scripts/setup --tests
	@scripts/postgres start >/dev/null
	go run ./test/journeys
