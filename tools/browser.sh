#!/bin/sh
# Chromium and ChromeDriver for the tests of the interface, from Debian's packages.
set -eu
if command -v chromium >/dev/null && command -v chromedriver >/dev/null; then exit 0; fi
if [ "$(id -u)" -ne 0 ]; then
  echo "The tests of the interface need Chromium. Run: sudo apt-get update && sudo apt-get install chromium chromium-driver" >&2
  exit 1
fi
echo "Installing Chromium and ChromeDriver"
apt-get update -qq
DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium chromium-driver >/dev/null
