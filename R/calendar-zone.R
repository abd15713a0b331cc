# Zones: the table of the instants at which a zone's offset from UTC changes,
# made once for a range, and local clock times turned into instants with it. The
# tz database is the system's, asked through R.

check_zone <- function(zone) {
  # A look at all zones takes longer than to read a small file.
  if (!rlang::is_string(zone) || !(zone == "UTC" || zone %in% OlsonNames())) {
    near <- if (rlang::is_string(zone)) {
      agrep(zone, OlsonNames(), value = TRUE, max.distance = 0.2)
    } else {
      character()
    }
    abort_backfill(
      "zone",
      "`zone` is {value_in_words(zone)}, which is not a zone of the tz",
      "database.",
      i = if (length(near) > 0) {
        "Did you mean {in_words(quoted(near), 3, last = ' or ')}?"
      },
      ">" = "See OlsonNames() for all of them; \"UTC\" has no daylight saving."
    )
  }
  zone
}

# A table of two columns: `from` (instants, the first is -Inf) and `offset`
# (seconds east of UTC that hold from then on). It is exact for instants from
# `lowest` to `highest`.
zone_table <- function(zone, lowest = 0, highest = 0) {
  offset_at <- function(instant) as.POSIXlt(.POSIXct(instant, tz = zone))$gmtoff
  if (zone %in% utc_zones) {
    return(list(from = -Inf, offset = 0))
  }
  # No zone has changed its offset twice in a day, so a look at each day finds
  # every change; halving finds its second.
  days <- seq(floor(lowest / 86400) - 2, ceiling(highest / 86400) + 2) * 86400
  offset <- offset_at(days)
  change <- which(diff(offset) != 0)
  before <- days[change]
  after <- days[change + 1]
  while (any(after - before > 1)) {
    middle <- floor((before + after) / 2)
    same <- offset_at(middle) == offset[change]
    before <- ifelse(same, middle, before)
    after <- ifelse(same, after, middle)
  }
  list(from = c(-Inf, after), offset = as.numeric(offset[c(1, change + 1)]))
}

utc_zones <- c("UTC", "GMT", "Etc/UTC")

# The local clock second of an instant.
instant_to_local <- function(instant, table) {
  instant + table$offset[findInterval(instant, table$from)]
}

# Of times as R holds them; days have no zone.
zone_table_of <- function(when, zone) {
  if (inherits(when, "Date")) {
    return(zone_table("UTC"))
  }
  ends <- ends_cpp(when)
  zone_table(zone, ends$lowest, ends$highest)
}
