#!/usr/bin/env bash
# Chromium from Debian's packages for the browser tests: as root, by sudo, or one line that says how.
set -eu
command -v chromium >/dev/null && exit 0
echo "Installing Chromium from Debian's packages for the browser tests…"
if [ "$(id -u)" -eq 0 ]; then
    as_root=()
elif command -v sudo >/dev/null && sudo -n true 2>/dev/null; then
    as_root=(sudo -n)
else
    echo "The browser tests need Chromium. Install it with: sudo apt-get install chromium" >&2
    exit 1
fi
"${as_root[@]}" apt-get update -qq
DEBIAN_FRONTEND=noninteractive "${as_root[@]}" apt-get install -y -qq chromium >/dev/null
