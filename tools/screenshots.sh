#!/bin/sh
# Makes the pictures of docs/screenshots anew: the demo's figures, and the terminal as a reader will see it.
# The terminal needs Xvfb, xterm and ImageMagick (Debian: xvfb xterm imagemagick fonts-dejavu-core).
set -eu
cd "$(dirname "$0")/.."
for tool in Xvfb xterm import; do
  command -v "$tool" >/dev/null || { echo "$tool is needed; see the head of tools/screenshots.sh." >&2; exit 1; }
done
shots=docs/screenshots
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
mkdir -p "$shots"
PATH="$PWD/build/library/backfill/exec:$PATH"
export PATH

backfill demo --out "$folder" --quiet >/dev/null
mv "$folder"/*.png "$shots"
backfill periods inst/extdata/guest-nights.csv --when month --series island --measure guest_nights:flow:"guest nights" \
  --fill seasonal --over none --window none --quiet --figure "$shots/guest-nights-filled.png" >/dev/null

# terminal NAME COMMAND: a picture of the window after COMMAND has run in it.
terminal() {
  cat >"$folder/run.sh" <<END
cd inst/extdata
printf '%s %s\\n' '\$' '$2'
$2
touch $folder/done
sleep 60
END
  rm -f "$folder/done"
  xvfb-run -a -s "-screen 0 1280x800x24" sh -c "
    exec 2>/dev/null
    xterm -fa 'DejaVu Sans Mono' -fs 10 -geometry 158x49+0+0 -bg white -fg '#222222' -e sh $folder/run.sh &
    while [ ! -e $folder/done ]; do sleep 0.2; done
    sleep 1
    import -window root $shots/$1.png" || true
}
terminal terminal-help 'backfill periods --help | head -47'
terminal terminal-periods 'backfill periods sailings.csv --when time --zone WET --measure north:flow:boardings --every quarter --enough 0.95'
terminal terminal-inspect 'backfill inspect cold-store-meters.csv'
