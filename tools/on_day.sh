#!/bin/sh
# A command on another day, with all that it starts: tools/on_day.sh '2027-03-27 23:50' make test
set -eu
library=$(find /usr/lib -name libfaketime.so.1 2>/dev/null | head -n 1)
if [ -z "$library" ]; then
  echo "Another day needs Debian's faketime. Run: apt-get update && apt-get install faketime" >&2
  exit 1
fi
day=$(date -d "$1" +%s)
shift
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
# Version 0.9.10 leaves the monotonic clock alone when it is told to, but then refuses to sleep by it.
cc -shared -fPIC -o "$folder/sleep.so" -xc - <<'C'
#define _GNU_SOURCE
#include <errno.h>
#include <sys/syscall.h>
#include <time.h>
#include <unistd.h>
int clock_nanosleep(clockid_t clock, int flags, const struct timespec *until, struct timespec *left) {
  return syscall(SYS_clock_nanosleep, clock, flags, until, left) < 0 ? errno : 0;
}
C
# A browser waits by that clock too, and would never rest; the page asks the server what day it is.
for browser in chromedriver chromium; do
  printf '#!/bin/sh\nexec env -u LD_PRELOAD "%s" "$@"\n' "$(command -v $browser || echo $browser)" > "$folder/$browser"
  chmod +x "$folder/$browser"
done
env PATH="$folder:$PATH" LD_PRELOAD="$folder/sleep.so $library" FAKETIME="$(printf %+d $((day - $(date +%s))))s" FAKETIME_DONT_FAKE_MONOTONIC=1 "$@"
