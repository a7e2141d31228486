#!/bin/sh
# A C++ compiler and Python's headers for the compiled part, from Debian's packages: tools/compiler.sh PYTHON
set -eu
headers() { "$1" -c 'import os, sysconfig; raise SystemExit(not os.path.exists(sysconfig.get_path("include") + "/Python.h"))'; }
missing=""
command -v c++ >/dev/null || missing="g++"
headers "$1" || missing="$missing python3-dev"
if [ -z "$missing" ]; then exit 0; fi
if [ "$(id -u)" -ne 0 ] || ! command -v apt-get >/dev/null; then
  echo "The engine is built from source here, which needs: $missing. Run: sudo apt-get update && sudo apt-get install $missing" >&2
  exit 1
fi
echo "Installing $missing"
apt-get update -qq
DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
if headers "$1"; then exit 0; fi
echo "$1 has no headers (Python.h), without which the engine cannot be built. Install those of this Python, or use another: make PYTHON=/usr/bin/python3" >&2
exit 1
