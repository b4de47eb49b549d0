#!/bin/bash
# Installs from Debian's packages what the tests need and this machine lacks.
# With the word pictures, also what the pictures of the documentation need.
set -euo pipefail

declare -A package=([chromium]=chromium [pdftotext]=poppler-utils [qpdf]=qpdf [7z]=p7zip-full [soffice]=libreoffice-calc-nogui)
if [ "${1:-}" = pictures ]; then
  package+=([Xvfb]=xvfb [xterm]=xterm [import]=imagemagick [fc-list]=fontconfig)
fi
missing=()
for command in "${!package[@]}"; do
  command -v "$command" >/dev/null || missing+=("${package[$command]}")
done
[ "${1:-}" = pictures ] && { fc-list 2>/dev/null | grep -q 'DejaVu Sans Mono' || missing+=(fonts-dejavu-core); }
if [ "${#missing[@]}" -eq 0 ]; then
  exit 0
fi
as_root=""
[ "$(id -u)" -eq 0 ] || as_root=sudo
echo "Installing ${missing[*]}"
$as_root apt-get update -qq
DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
