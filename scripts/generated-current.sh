#!/bin/bash
# Fails when the code generated from api/openapi.yaml is not current.
set -euo pipefail
cd "$(dirname "$0")/.."
kept=$(mktemp -d)
trap 'rm -rf "$kept"' EXIT
files="api/models.gen.go api/handlers/handlers.gen.go api/client/client.gen.go console/src/api/schema.d.ts"
cp $files "$kept"
go generate ./api
(cd console && npm run --silent types >/dev/null)
for file in $files; do
  if ! cmp -s "$file" "$kept/$(basename "$file")"; then
    echo "$file was not current; it has been generated anew: commit it"
    exit 1
  fi
done
