# make demo   serve the demo on loopback; installs what is missing first
# make test   everything that must hold, in well under 15 minutes on 2 cores
.PHONY: demo test bench shots build assets

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
	go test -timeout 14m ./...

bench:
	@scripts/setup --tests
	@scripts/postgres start >/dev/null
	go test -run '^$$' -bench . -benchtime 2s ./...

# the pictures of docs/screenshots, from a demo of their own
shots:
	@scripts/setup --tests
	@scripts/postgres start >/dev/null
	go run ./test/shots -out docs/screenshots

build:
	go build -o bin/aspenridge ./cmd/aspenridge

# styles, scripts, fonts and icons; what they build is committed
assets:
	cd web && npm ci && npm run build
