#' How much adjusted figures are revised
#'
#' How far the latest adjusted figures still are from what they become. A season
#' is estimated from all years, so each new year changes the adjusted figures of
#' those before it, most of all the last ones. The same index is worked out at
#' earlier ends of each series, from what was known by then alone, and what it
#' made of the last 24 periods up to each end is compared with what the whole
#' series makes of them.
#'
#' With the adjusted figure \eqn{a_{t|e}}{a[t|e]} of period \eqn{t} as known at
#' the end \eqn{e}, and \eqn{a_t}{a[t]} as it is now, the revision is
#' \eqn{|a_t / a_{t|e} - 1|}{|a[t] / a[t|e] - 1|}, and that of the change on the
#' period before \eqn{|(a_t / a_{t-1}) - (a_{t|e} / a_{t-1|e})|}{|a[t] / a[t-1]
#' - a[t|e] / a[t-1|e]|}; in additive form the differences take the place of the
#' ratios. Both are averaged over the ends.
#'
#' The ends are the last 60 that lie a whole cycle or more before the last
#' figure and have an index of their own; so the last ones are compared with
#' figures that may be revised again, and the revisions are understated a
#' little. The form is that of the whole series. What is adjusted is taken as
#' known at the time: corrections of the records themselves come on top, see
#' [as_known_on()].
#'
#' @inheritParams seasonal_index
#' @return A tibble with a row for each series and age: the series columns,
#'   `measure`, `age` (in periods, 0 for the last one at an end), `n` (ends
#'   compared), `revision` (the mean revision, a share, or in additive form an
#'   amount in the measure's unit), `changes` (ends whose change on the period
#'   before is compared), `change_revision` (its mean revision, as a difference
#'   of shares or an amount), `usual_change` (the mean size of these changes as
#'   they are now) and `sign_held` (the share of them that rose or fell as they
#'   do now).
#' @section Errors: Those of [seasonal_index()], and `backfill_error_season`
#'   where no series is long enough: three cycles or more.
#' @references Findley, D. F., Monsell, B. C., Shulman, H. B. and Pugh, M. G.
#'   (1990). Sliding-spans diagnostics for seasonal and related adjustments.
#'   *Journal of the American Statistical Association* 85, 345-355.
#' @seealso [deseasonalise()], whose figures these are; [project()].
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' season_revisions(roll_up(nights, every = "month"))
#' @concept revision history
#' @export
season_revisions <- function(
  x, cycle = NULL, form = "multiplicative", method = "centred average",
  combine = "mean without outliers", of = "value"
) {
  check_given()
  x <- check_periods(x)
  index <- index_in_form(
    x, form, !missing(form), cycle = cycle, method = method, combine = combine,
    of = of
  )
  along <- along_series(x, of)
  made <- revised_figures(along, index)
  keys <- keys_at(x, along, first_rows(along)$first)
  if (length(made$line) == 0) {
    stop_too_short_to_revise(facts(index)$cycle)
  }
  new_result(revision_rows(made, keys), "season_revisions", list(
    of = of, form = facts(index)$form, form_said = facts(index)$form_said,
    cycle = facts(index)$cycle, method = method, combine = combine,
    lacking = names_of_lines(keys)[-unique(made$line)],
    several = several_measures(x), unit = facts(x)$added[[of]]$unit,
    calendar = facts(x)$calendar, series = facts(x)$series,
    measures = facts(x)$measures, sources = facts(x)$sources
  ), needed = c("measure", "age", "n", "revision", "sign_held"))
}

most_ends <- 60
ages_compared <- 24

stop_too_short_to_revise <- function(cycle) {
  abort_backfill(
    "season", "No series is long enough to see how its figures were revised.",
    i = "An earlier end needs an index of its own and a whole cycle of",
    "{cycle$words} after it: three cycles or more in all.",
    ">" = "Give it more periods, or name a shorter `cycle`."
  )
}

# What figures were at earlier ends, and are now: list(line, place, early,
# final), of which `line` is that of each end, and the others have a row for
# each age and a column for each end; one age more than are compared. `place` is
# the figure's along time.
revised_figures <- function(along, index) {
  about <- facts(index)
  cycle <- check_cycle(about$cycle$length, about$calendar)
  at <- positions_along(along, cycle)
  rows <- first_rows(along)
  end <- ends_to_compare(along, rows$line, cycle$length)
  place <- places_before(along, rows$line, end)
  early <- index_at_ends(along, rows, end, place, at, cycle, about)
  place <- place[, early$has, drop = FALSE]
  without <- function(index) {
    value <- along$value[place]
    matrix(
      if (about$form == "multiplicative") value / index else value - index,
      nrow(place)
    )
  }
  list(
    line = rows$line[end[early$has]], place = place,
    ratio = about$form == "multiplicative",
    early = without(early$index[, early$has, drop = FALSE]),
    final = without(about$worksheet$index[place])
  )
}

# The last whole figures of each line that have a cycle of them after, by their
# place along time.
ends_to_compare <- function(along, line, length) {
  known <- which(!is.na(along$value))
  last <- integer(max(line))
  last[line[known]] <- along$number[known]
  end <- known[last[line[known]] - along$number[known] >= length]
  count <- tabulate(line[end], length(last))
  end[sequence(count) > rep(count, count) - most_ends]
}

# list(index, has): the index of each `place`, a column for each end, of what
# was known by then, and whether it has one. The rows of a line stand once for
# each of its ends, some millions of them at a time.
index_at_ends <- function(along, rows, end, place, at, cycle, about) {
  from <- rows$first[rows$line[end]]
  size <- end - from + 1L
  found <- lapply(split(seq_along(end), cumsum(size) %/% 5e6), function(some) {
    row <- sequence(size[some], from[some])
    made <- season_cpp(
      rep(seq_along(some), size[some]), along$number[row], along$value[row],
      at$position - 1L, at$first, cycle$length, about$form == "multiplicative",
      about$method == "overall average", match(about$combine, combines) - 1L,
      about$normalised
    )
    behind <- cumsum(size[some]) - end[some]
    own <- place[, some, drop = FALSE] + rep(behind, each = nrow(place))
    list(
      index = matrix(made$of_row[own], nrow(place)),
      has = season_facts(made$facts)$fault == 0
    )
  })
  list(
    index = do.call(cbind, lapply(found, `[[`, "index")),
    has = unlist(lapply(found, `[[`, "has"), use.names = FALSE)
  )
}

# For each age a row, for each end a column: where the figure is along time, NA
# where there is none.
places_before <- function(along, line, end) {
  ages <- seq_len(ages_compared + 1L) - 1L
  span <- diff(range(along$number)) + 1
  key <- function(line, number) line * span + number - min(along$number)
  wanted <- outer(ages, along$number[end], function(age, number) number - age)
  own <- rep(line[end], each = length(ages))
  # A number before all others would be one of the line before.
  wanted[wanted < min(along$number)] <- NA
  matrix(
    match(key(own, as.vector(wanted)), key(line, along$number), NA),
    length(ages)
  )
}

# By how much each figure, and its change on the period before, was revised.
revisions_of <- function(made) {
  ages <- seq_len(ages_compared)
  change <- function(figure) {
    before <- figure[ages + 1, , drop = FALSE]
    here <- figure[ages, , drop = FALSE]
    if (made$ratio) here / before - 1 else here - before
  }
  early <- change(made$early)
  final <- change(made$final)
  off <- if (made$ratio) made$final / made$early - 1 else
    made$final - made$early
  list(
    revision = abs(off[ages, , drop = FALSE]), early = early, final = final
  )
}

revision_rows <- function(made, keys) {
  of <- revisions_of(made)
  by_line <- function(figures) {
    rowsum(t(figures), made$line, na.rm = TRUE)
  }
  count <- function(figures) by_line(1 - is.na(figures))
  n <- count(of$revision)
  changes <- count(of$final)
  mean_of <- function(figures, count) {
    as.vector(t(by_line(figures) / ifelse(count > 0, count, NA_real_)))
  }
  held <- (sign(of$early) == sign(of$final)) + 0
  lines <- as.integer(rownames(n))
  out <- new_rows(
    vctrs::vec_rep_each(vctrs::vec_slice(keys, lines), ages_compared),
    age = rep(seq_len(ages_compared) - 1L, length(lines)),
    n = as.integer(t(n)), revision = mean_of(of$revision, n),
    changes = as.integer(t(changes)),
    change_revision = mean_of(abs(of$early - of$final), changes),
    usual_change = mean_of(abs(of$final), changes),
    sign_held = mean_of(held, changes)
  )
  out[out$n > 0, ]
}
