#!/usr/bin/env bash
# Formatting, vet, linters and generated code: each must have nothing to say.
set -euo pipefail
cd "$(dirname "$0")/.."
unformatted=$(gofmt -l $(git ls-files '*.go'))
[ -z "$unformatted" ] || { echo "not formatted with gofmt: $unformatted"; exit 1; }
go vet ./...
go tool staticcheck ./...
# What is generated fits what it is made of.
generated=(api/openapi.gen.go web/src/api/schema.d.ts web/src/sketch/core/session.d.ts)
before=$(sha256sum "${generated[@]}")
make --silent generate >/dev/null 2>&1
[ "$before" = "$(sha256sum "${generated[@]}")" ] || { echo "generated code was stale, and is made anew: commit it"; exit 1; }
cd web
npm run --silent check
