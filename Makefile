# Aftermath. `make demo` serves the application with its demo study; `make test` checks everything.
SHELL := /bin/bash
ADDRESS ?= 127.0.0.1:8420
FUZZTIME ?= 20s
GO_FILES := $(shell find cmd core internal ui -name node_modules -prune -o -name '*.go' -print)
UI_FILES := $(shell find ui/src -type f) ui/index.html ui/vite.config.ts ui/vite.paper.config.ts ui/tsconfig.json ui/package.json

# The router's reader of msgpack, which nothing here uses, takes as long to compile as all the rest of it: it is left out. Without cgo no
# C compiler is needed.
export GOFLAGS := -tags=nomsgpack
export CGO_ENABLED := 0

.PHONY: demo dev together compiled build ui setup setup-test types lint test race busy faults audit bench fuzz quality words shots office package clean

demo: setup together bin/aftermath
	@echo "== starting Aftermath with the demo study"
	@exec bin/aftermath demo --listen $(ADDRESS)

# The demo with reload, for who changes the program: a changed Go file builds and starts the server anew, a changed file of the
# interface shows in the page at once.
dev: setup ui/dist/index.html
	@scripts/dev

build: bin/aftermath

bin/aftermath: $(GO_FILES) ui/dist/index.html go.mod internal/demo/change.json internal/demo/enjoy.json
	@echo "== building the server"
	go build -ldflags="-s -w" -o $@ ./cmd/aftermath

# What the interface is no part of is compiled while its libraries are fetched and it is built: each waits for other things.
together:
	@$(MAKE) --no-print-directory -j 2 compiled ui/dist/index.html

compiled:
	@test -e bin/aftermath || { echo "== compiling what the server is made of"; \
	  go build $$(go list -deps ./cmd/aftermath | grep -v -e '^aftermath/ui$$' -e '^aftermath/internal/document$$' -e '^aftermath/internal/api$$' -e '^aftermath/cmd/'); }

ui: ui/dist/index.html

ui/dist/index.html: ui/node_modules/.done $(UI_FILES)
	@echo "== building the interface"
	rm -rf ui/dist/assets ui/dist/index.html ui/dist/paper
	cd ui && npm run --silent build

ui/node_modules/.done: ui/package-lock.json
	@echo "== installing the interface's libraries"
	cd ui && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

# What runs the application, and what tests it, from Debian's packages.
setup:
	@scripts/install postgresql
setup-test:
	@scripts/install postgresql chromium compiler

# The interface's types come from the server's OpenAPI document; a test fails when they are stale.
types: ui/node_modules/.done
	go build -o bin/describe ./cmd/aftermath
	bin/describe openapi > bin/openapi.json && mv bin/openapi.json internal/api/openapi.json
	bin/describe limits > bin/limits.md && mv bin/limits.md docs/limits.md
	cd ui && npm run --silent types

lint: ui/node_modules/.done
	@echo "== lint"
	@test -z "$$(gofmt -l cmd core internal ui/*.go)" || { gofmt -l cmd core internal ui/*.go; echo "run gofmt -w on these"; exit 1; }
	go vet ./...
	cd ui && npm run --silent check && npm run --silent lint

test: setup-test lint bin/aftermath race
	@echo "== tests"
	cd ui && npm run --silent test
	go test -timeout 30m -parallel 4 ./...

# What is done at the same time, under the race detector, which needs a C compiler.
race:
	@echo "== race detector"
	CGO_ENABLED=1 go test -race -timeout 5m -run 'Together|SameTime|LetGo|Memo|Each|Panics|Build' ./core/parallel ./core/corpus \
	  ./internal/desk/...

# All tests three times in a row on a busy machine: four endless loops run beside them.
busy: setup-test
	scripts/busy 4 3 make test

# The server, PostgreSQL and its processes killed at random while people work, 240 times, with what is found held against a plain model;
# then twenty windows at work for five minutes, and beside a million rows that are brought in.
faults: setup-test
	FAULTS=240 go test ./cmd/aftermath -run "NothingIsLost|FullDisk" -v -timeout 20m -count 1
	LOAD=300 go test ./cmd/aftermath -run "ManyAtOnce|ManyClients" -v -timeout 20m -count 1
	go test ./internal/pg ./internal/folder ./internal/backup ./internal/store ./internal/desk -run "Killed|Outlives|Temporary|Backup|Restored|Damaged|Hung|OneServers" -count 1

bench: setup
	go test -run '^$$' -bench . -skip 'Million|Open|Growth' -benchtime 20x ./core/... ./internal/desk
	go test -run '^$$' -bench Growth -benchtime 1x ./internal/desk
	go test -run '^$$' -bench 'Million|Open' -benchtime 1x -timeout 30m ./internal/desk

fuzz:
	go test ./core/text -run '^$$' -fuzz FuzzClean -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./core/naming -run '^$$' -fuzz FuzzPath -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./core/rule -run '^$$' -fuzz FuzzCompile -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./core/rule -run '^$$' -fuzz FuzzMatcher -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./core/frame -run '^$$' -fuzz FuzzFromCodebook -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./core/playbook -run '^$$' -fuzz FuzzParse -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./core/survey -run '^$$' -fuzz FuzzGuessRole -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./core/scheme -run '^$$' -fuzz FuzzEdit -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./internal/files -run '^$$' -fuzz FuzzRead -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./internal/files -run '^$$' -fuzz FuzzWorkbook -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./internal/files -run '^$$' -fuzz FuzzOpenDocument -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./internal/desk -run '^$$' -fuzz FuzzFocus -fuzztime $(FUZZTIME) -fuzzminimizetime 10x
	go test ./internal/desk -run '^$$' -fuzz FuzzBackup -fuzztime $(FUZZTIME) -fuzzminimizetime 10x

# Known faults of what the program is built with; both ask a service on the internet, which nothing else here does.
audit: ui/node_modules/.done
	go run golang.org/x/vuln/cmd/govulncheck@v1.1.4 ./...
	cd ui && npm audit --omit=dev

# How good proposals are: on the demo's truth, and, with TEXTS=FOLDER, what is proposed from files of your own, to be read.
quality:
	go test ./core/words ./internal/demo ./internal/desk ./core/text ./internal/desk/intake -v \
	  -run 'InflectionsNot|Misspellings|DraftsAgainstTheTruth|RulesFromExamples|PersonalDataIsFound|Guesses|SuggesterAgainstTheTruth|GroupsAgainstTheTruth' \
	  | grep -E '^(---|ok|FAIL)|precision|recall|of 12|F1|wrong|left'
	@test -z "$(TEXTS)" || go run ./cmd/quality "$(TEXTS)"

# Makes the table of English words anew, core/words/english.txt.gz; it is in the repository, and not made by any other target.
words:
	cd scripts/words && npm ci --no-audit --no-fund && node english.mjs

# Pictures of a fresh demo, taken by a server of its own.
shots: setup-test bin/aftermath
	scripts/shots

# What is written for office programs, opened by one: PowerPoint, Word and XLSX files of a fresh demo as PDF and pictures, to be looked at.
office: setup bin/aftermath
	@scripts/install office
	scripts/office $(or $(OUT),/tmp/aftermath-office)

# A Debian package of the program, its unit and its manual page, in bin/.
package: bin/aftermath
	scripts/package

clean:
	rm -rf bin ui/dist/assets ui/dist/index.html ui/node_modules
