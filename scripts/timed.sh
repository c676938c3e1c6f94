#!/usr/bin/env bash
# timed.sh LOG COMMAND…: runs a command of the compiler, and notes in a file how many seconds of the
# processor it took and which file it made.
log=$1
shift
made=
for ((at = 1; at < $#; ++at)); do
  if [ "${!at}" = -o ]; then
    next=$((at + 1))
    made=${!next}
  fi
done
note=$(mktemp)
TIMEFORMAT=%3U
{ time "$@" 2>&3; } 3>&2 2>"$note"
status=$?
printf '%s %s\n' "$(tail -n 1 "$note")" "$made" >>"$log"
rm -f "$note"
exit "$status"
