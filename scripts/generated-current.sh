#!/bin/bash
# Fails when the code generated from api/openapi.yaml is not current.
set -euo pipefail
cd "$(dirname "$0")/.."
kept=$(mktemp -d)
trap 'rm -rf "$kept"' EXIT
cp api/api.gen.go console/src/api/schema.d.ts "$kept"
go generate ./api
(cd console && npm run --silent types >/dev/null)
for file in api/api.gen.go console/src/api/schema.d.ts; do
  if ! cmp -s "$file" "$kept/$(basename "$file")"; then
    echo "$file was not current; it has been generated anew: commit it"
    exit 1
  fi
done
