#!/bin/sh
# Makes the pictures of docs/screenshots anew: the demo's figures, and the terminal as a reader will see it.
# The terminal needs Xvfb, xterm and ImageMagick (Debian: xvfb xterm imagemagick fonts-dejavu-core), the report Chromium.
set -eu
cd "$(dirname "$0")/.."
for tool in Xvfb xterm import chromium node; do
  command -v "$tool" >/dev/null || { echo "$tool is needed; see the head of tools/screenshots.sh." >&2; exit 1; }
done
shots=docs/screenshots
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
mkdir -p "$shots"
PATH="$PWD/build/library/backfill/exec:$PATH"
export PATH

backfill demo --out "$folder/demo" --quiet >/dev/null
node tests/browser/look-at-report.mjs "$folder/demo/report.html" "$PWD/$shots/report.png" "header"
backfill periods inst/extdata/crossings.csv --when time --zone WET --measure market:flow:boardings \
  --measure tide:flow:boardings --measure excursion:flow:boardings --every month --enough 0.95 \
  --over none --window 12 --quiet --figure "$shots/crossings-by-month.png" >/dev/null
backfill periods inst/extdata/inns.csv --when month --series inn --measure guest_nights:flow:"guest nights" \
  --over none --window 12 --quiet --figure "$shots/inns-by-month.png" >/dev/null
backfill periods inst/extdata/inns.csv --when month --series inn --measure guest_nights:flow:"guest nights" \
  --fill seasonal --over none --window none --quiet --figure "$shots/inns-filled.png" >/dev/null
Rscript --vanilla - "$shots" <<'END'
library(backfill)
shots <- commandArgs(TRUE)
draw <- function(plot, name) write_figure(plot, file.path(shots, paste0(name, ".png")))
nights <- read_records(demo_file("inns.csv"), when = "month", series = "inn",
                       measures = list(guest_nights = measure("flow", unit = "guest nights")))
nights <- add_running_total(add_growth(roll_up(nights, every = "month"), over = "1 year"))
draw(autoplot(nights, of = "running_total", type = "years"), "inns-years")
draw(autoplot(seasonal_index(nights), type = "ratios"), "inns-season")
draw(autoplot(project(nights, 12, base = "line")), "inns-projected")
draw(autoplot(autocorrelation(nights, lags = 24), reference = TRUE), "inns-memory")
draw(autoplot(flag_periods(nights, "a cycle before", c(percent = 12))), "inns-flags")
landings <- read_records(demo_file("landings.csv"), when = "date", series = c("species", "boat"), duplicates = "last",
                         missing = "unsold", measures = c(price = "level", kilos = "flow"))
monthly <- roll_up(landings, "month", by = "species", pool = c(price = "kilos"), enough = 0.3)
rates <- verdict_rates()
draw(autoplot(rates[!grepl("misses|among sixty", rates$verdict) & rates$verb %in% c("seasonal_index()", "autocorrelation()", "trend_line()", "level_shifts()"), ]), "rates")
boardings <- measure("flow", "boardings")
crossings <- read_records(demo_file("crossings.csv"), when = "time", zone = "WET",
                          measures = list(market = boardings, tide = boardings, excursion = boardings))
weekly <- add_moving(roll_up(crossings, every = "week", enough = 0.9), window = 13, align = "centred", present = 0.7)
weekly <- weekly[weekly$measure != "excursion", ]
events <- read.csv(demo_file("events.csv"))
events <- events[grepl("Counting|Harbour|storms|market line", events$note), ]
draw(autoplot(weekly, events = events), "crossings-events")
draw(autoplot(cycle_grid(crossings, "weekday", "hour")), "crossings-hours")
daily <- roll_up(crossings, every = "day")
daily <- daily[daily$measure != "excursion", ]
draw(autoplot(group_differences(daily, "weekday")), "crossings-weekdays")
found <- correlations(roll_up(read_records(
  demo_file("landings.csv"), when = "date", series = "species", duplicates = "keep", missing = "unsold",
  measures = c(price = "level", kilos = "flow")
), "month", enough = 0.5))
draw(autoplot(found), "landings-links")
landed <- roll_up(read_records(
  demo_file("landings.csv"), when = "date", series = "species", duplicates = "keep", missing = "unsold",
  measures = c(kilos = "flow")
), "month", enough = 0.5)
draw(autoplot(explain_target(landed, "ling")), "landings-explained")
ledger <- read_records(demo_file("ledger.csv"), when = "period", series = "item", known = "entered",
                       measures = c(value = "level"))
draw(autoplot(align_as_of(ledger, "week")), "ledger-known")
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
terminal terminal-help 'backfill --help; echo; backfill flags --help | head -12'
terminal terminal-periods 'backfill periods crossings.csv --when time --zone WET --measure tide:flow:boardings --every quarter --enough 0.95'
terminal terminal-inspect 'backfill inspect water-tanks.csv'
