#!/bin/bash
# Installs from Debian's packages what the tests need and this machine lacks.
# With the word pictures, also what the pictures of the documentation need.
set -euo pipefail

declare -A package=([chromium-headless-shell]=chromium-headless-shell [pdftotext]=poppler-utils [qpdf]=qpdf [7z]=p7zip-full [soffice]=libreoffice-calc-nogui)
if [ "${1:-}" = pictures ]; then
  package+=([Xvfb]=xvfb [xterm]=xterm [import]=imagemagick [fc-list]=fontconfig)
fi
missing=()
for command in "${!package[@]}"; do
  command -v "$command" >/dev/null || missing+=("${package[$command]}")
done
# The server's programs are not on the path; and no server of the machine's own is to be made.
compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null || missing+=(postgresql)
command -v mariadb-install-db >/dev/null || missing+=(mariadb-server)
[ "${1:-}" = pictures ] && { fc-list 2>/dev/null | grep -q 'DejaVu Sans Mono' || missing+=(fonts-dejavu-core); }
if [ "${#missing[@]}" -eq 0 ]; then
  exit 0
fi
as_root=""
[ "$(id -u)" -eq 0 ] || as_root=sudo
echo "Installing ${missing[*]}"
if [[ " ${missing[*]} " == *" postgresql "* ]] && [ ! -e /etc/postgresql-common/createcluster.conf ]; then
  $as_root mkdir -p /etc/postgresql-common
  echo 'create_main_cluster = false' | $as_root tee /etc/postgresql-common/createcluster.conf >/dev/null
fi
$as_root apt-get update -qq
DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
