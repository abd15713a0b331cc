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
backfill periods inst/extdata/inns.csv --when month --series inn --measure guest_nights:flow:"guest nights" \
  --fill seasonal --over none --window none --quiet --figure "$shots/guest-nights-filled.png" >/dev/null
Rscript --vanilla - "$shots" <<'END'
library(backfill)
shots <- commandArgs(TRUE)
draw <- function(plot, name) write_figure(plot, file.path(shots, paste0(name, ".png")))
nights <- read_records(demo_file("inns.csv"), when = "month", series = "inn",
                       measures = list(guest_nights = measure("flow", unit = "guest nights")))
nights <- add_running_total(add_growth(roll_up(nights, every = "month"), over = "1 year"))
draw(autoplot(nights, of = "running_total", type = "years"), "guest-nights-years")
draw(autoplot(nights, of = "growth_1_year", type = "distribution"), "guest-nights-distribution")
bands <- add_bands(nights, c(-5, 0, 5), c("clear fall", "fall", "rise", "clear rise"), of = "growth_1_year")
draw(autoplot(count_bands(bands)), "guest-nights-bands")
draw(autoplot(seasonal_index(nights), type = "ratios"), "guest-nights-season")
draw(autoplot(project(nights, 12, base = "line")), "guest-nights-projected")
draw(autoplot(autocorrelation(nights, lags = 24), reference = TRUE), "guest-nights-memory")
draw(autoplot(flag_periods(nights, "a cycle before", c(percent = 12))), "guest-nights-flags")
auction <- read_records(demo_file("landings.csv"), when = "date", series = "species", duplicates = "last",
                        measures = c(close = "level"))
draw(autoplot(add_rebased(roll_up(auction, "week", use = "last", enough = 0.5)), of = "rebased"), "fish-rebased")
crossings <- read_records(demo_file("crossings.csv"), when = "time", zone = "WET",
                         measures = list(north = measure("flow", "boardings"), south = measure("flow", "boardings")))
weekly <- add_moving(roll_up(crossings, every = "week", enough = 0.9), window = 13, align = "centred", enough = 0.7)
draw(autoplot(weekly, events = read.csv(demo_file("events.csv"))), "crossings-events")
draw(autoplot(cycle_grid(crossings, "date", "hour")), "crossings-days")
END

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
terminal terminal-periods 'backfill periods crossings.csv --when time --zone WET --measure north:flow:boardings --every quarter --enough 0.95'
terminal terminal-inspect 'backfill inspect water-tanks.csv'
