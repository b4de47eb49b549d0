#!/bin/bash
# Boots a Debian of its own with systemd, in namespaces of its own, and tries there what the package
# installs: the unit with all that it is denied, a kill, the socket. As root; what it needs is installed.
# What make test cannot hold: a filter of system calls is found out only where systemd sets it.
set -euo pipefail
cd "$(dirname "$0")/.."
package=$(realpath "${1:?the package, such as bin/mantilla_0.1.0_amd64.deb}")
root=$(mktemp -d /var/tmp/mantilla-unit.XXXXXX)
init=
ended() {
    [ -z "$init" ] || kill -9 "$init" 2>/dev/null || true
    sleep 1
    rm -rf --one-file-system "$root"
}
trap ended EXIT

command -v debootstrap >/dev/null || apt-get install -y --no-install-recommends debootstrap
debootstrap --variant=minbase --include=systemd,dbus,curl,ca-certificates bookworm "$root/system" >"$root/log"
cp "$package" "$root/system/root/"
chroot "$root/system" dpkg -i "/root/$(basename "$package")"

cat >"$root/boot" <<BOOT
mount --make-rprivate /
mount --bind $root/system $root/system
cd $root/system && mkdir -p old
mount -t proc proc proc
mount --rbind /sys sys
umount -l sys/fs/cgroup 2>/dev/null; mount -t cgroup2 none sys/fs/cgroup
mount -t tmpfs tmpfs run
mount -t tmpfs tmpfs tmp
mount --rbind /dev dev
pivot_root . old && umount -l /old && mount --make-rshared /
export container=oci
exec /lib/systemd/systemd --log-target=null
BOOT
unshare -m -p -u -i -n -f -C bash "$root/boot" &
for _ in $(seq 50); do
    init=$(pgrep -P $! | head -1 || true)
    [ -n "$init" ] && nsenter -t "$init" -m -p -r -w systemctl is-system-running 2>/dev/null |
        grep -qE 'running|degraded' && break
    sleep 0.5
done
inside() { nsenter -t "$init" -m -p -u -i -n -C -r -w "$@"; }
answers() { # within ten seconds
    for _ in $(seq 20); do
        inside curl -fs -o /dev/null http://127.0.0.1:8480/ && return
        sleep 0.5
    done
    inside systemctl status mantilla --no-pager -n 20
    echo "$1: nobody answers"
    exit 1
}
inside ip link set lo up 2>/dev/null || nsenter -t "$init" -n ip link set lo up
inside systemctl start mantilla
answers "started"
inside systemctl kill -s KILL mantilla
sleep 3
answers "killed"
inside systemctl stop mantilla
inside systemctl start mantilla.socket
answers "by its socket"
inside systemctl is-active mantilla
inside systemd-analyze security mantilla --no-pager | tail -1
