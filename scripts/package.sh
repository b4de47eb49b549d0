#!/bin/bash
# Makes the Debian package of what make package built in bin/package: package.sh VERSION ARCH
set -euo pipefail
cd "$(dirname "$0")/.."
version=${1:?the version, such as 0.1.0} arch=${2:?the architecture, such as amd64}
root=$(mktemp -d)
trap 'rm -rf "$root"' EXIT
chmod 755 "$root"
put() { install -D -m "${3:-644}" "$1" "$root/$2"; }

put bin/package/mantilla usr/bin/mantilla 755
put packaging/mantilla.service usr/lib/systemd/system/mantilla.service
put packaging/mantilla.socket usr/lib/systemd/system/mantilla.socket
put packaging/mantilla.yaml etc/mantilla/mantilla.yaml 640
put bin/package/completion/mantilla.bash usr/share/bash-completion/completions/mantilla
put bin/package/completion/_mantilla usr/share/zsh/vendor-completions/_mantilla
put bin/package/completion/mantilla.fish usr/share/fish/vendor_completions.d/mantilla.fish
for page in bin/package/man/*; do
  put "$page" "usr/share/man/man1/$(basename "$page")"
done
find docs -type f | while read -r page; do
  put "$page" "usr/share/doc/mantilla/${page#docs/}"
done

mkdir "$root/DEBIAN"
cat >"$root/DEBIAN/control" <<CONTROL
Package: mantilla
Version: $version
Architecture: $arch
Section: web
Priority: optional
Maintainer: The founders of Mantilla <founders@mantilla.example>
Installed-Size: $(du -sk --exclude=DEBIAN "$root" | cut -f1)
Recommends: ca-certificates
Description: Report library of an organisation: service, console and command line
 A librarian keeps a catalog of reports with typed parameters; people find,
 run, read and take them away, and put them on a timetable. The service
 brings its web console and its own records.
CONTROL
# What an administrator changed of it stays when a newer version is installed.
echo /etc/mantilla/mantilla.yaml >"$root/DEBIAN/conffiles"
(cd "$root" && find usr etc -type f -exec md5sum {} + >DEBIAN/md5sums)
dpkg-deb --root-owner-group -Zgzip -z5 --build "$root" "bin/mantilla_${version}_$arch.deb" >/dev/null
