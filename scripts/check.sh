#!/usr/bin/env bash
# Formatting, vet, linters and generated code: each must have nothing to say.
set -euo pipefail
cd "$(dirname "$0")/.."
unformatted=$(gofmt -l $(git ls-files '*.go'))
[ -z "$unformatted" ] || { echo "not formatted with gofmt: $unformatted"; exit 1; }
go vet ./...
go tool staticcheck ./...
go generate ./api
git diff --exit-code --stat -- api/openapi.gen.go || { echo "api/openapi.gen.go does not fit api/openapi.yaml: run make generate"; exit 1; }
cd web
npm run --silent check
npx --no-install openapi-typescript ../api/openapi.yaml -o /tmp/hammerset-schema.$$.d.ts >/dev/null 2>&1
trap 'rm -f /tmp/hammerset-schema.$$.d.ts' EXIT
cmp -s src/api/schema.d.ts /tmp/hammerset-schema.$$.d.ts || { echo "web/src/api/schema.d.ts does not fit api/openapi.yaml: run make generate"; exit 1; }
