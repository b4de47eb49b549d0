#!/bin/bash
# Draws what commands print in a terminal window of its own, as a PNG.
#   terminal.sh DIRECTORY-OF-MANTILLA SERVICE TOKEN COMMANDS FILE
# Needs Xvfb, xterm and ImageMagick's import.
set -eu
export PATH="$1:$PATH" MANTILLA_SERVICE="$2" MANTILLA_TOKEN="$3" DISPLAY=":$((RANDOM % 500 + 100))" LC_ALL=C.UTF-8
Xvfb "$DISPLAY" -screen 0 1280x800x24 >/dev/null 2>&1 &
trap 'kill %1' EXIT
sleep 1
xterm -geometry 156x44+0+0 -fa 'DejaVu Sans Mono' -fs 10 -bg '#fbf8f2' -fg '#2a2523' +sb -e bash -c "$4; read -rsn1 -t 6" &
sleep 2.5
import -window root "$5"
