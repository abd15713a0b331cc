#' Rank what moves with a series, or before it
#'
#' Sets every other series of a table against one of them, the target: the
#' change of each over several horizons against the target's change over the
#' same horizon now, or as far **ahead**. What chance alone would have shown
#' among so many candidates is said first.
#'
#' A change over \eqn{h} periods that is looked at in every period overlaps its
#' neighbours, so \eqn{n} of them are worth far fewer; as in [correlations()]
#' they count as \eqn{n_e} independent ones, by how the two are correlated with
#' their own past over all lags up to a fifth of \eqn{n}, and at least up to
#' \eqn{h}. The same holds for a series that was carried to shorter periods and
#' stands still in between; `distinct` says how many different figures it has.
#' Over all candidates and horizons the share of false finds is held by the
#' procedure of Benjamini and Hochberg (1995): `q` is the share that would have
#' to be expected if all pairs as strong as this one were called links.
#'
#' Where target and candidate both have a season, by which alone they are alike,
#' there is no `p` and no `q`; changes over whole cycles have none.
#'
#' @section Rates: In 200 simulated worlds of 60 candidates of white noise and a
#'   target over 48 quarters, at 4 leads, a link with `q` below 0.1 was named in
#'   9 of 100 worlds. Three true leads with a correlation of 0.7 among them were
#'   found in 99 of 100 cases, and 10 of 100 finds were false. Quarterly noise
#'   carried to days had p below 0.05 in 10 of 100 worlds with two horizons
#'   each, and growth over a year of 72 months of unrelated walks in 8 of 100
#'   pairs.
#'
#' @eval rates_section("rank_links")
#'
#' @inheritParams correlations
#' @param target The name of the series that is to be explained.
#' @param ahead How many periods the target's change lies ahead: numbers of
#'   periods, 0 for now.
#' @param horizons Over how many periods changes are taken, 0 for the figures
#'   themselves. By default 1, and 0 where these are changes already, such as a
#'   growth or a return.
#' @param second The name of a second target, to see whether the links hold for
#'   it, too.
#' @param pairs The least number of periods that two must have in common.
#' @return A tibble with a row for each candidate, horizon and lead, the
#'   strongest first: `candidate`, `horizon`, `ahead`, `coefficient`, `n`,
#'   `distinct` (different figures of the candidate), `n_effective`, `lower`,
#'   `upper`, `p`, `q`; and how steady it is: `same_sign`, whether the
#'   coefficient has the same sign in both halves of the periods, `rank_first`
#'   and `rank_later`, its place by strength in each of them, with several
#'   `horizons` `same_over_horizons`, whether it has the same sign at all of
#'   them, and with a `second` target `with_second`, the coefficient with that.
#' @section Errors: `backfill_error_input` where `x` is not a periods table;
#'   `backfill_error_argument` for a target that is not a series;
#'   `backfill_error_column`, also for a column that looks ahead, which explains
#'   nothing.
#' @references Benjamini, Y. and Hochberg, Y. (1995). Controlling the false
#'   discovery rate. *Journal of the Royal Statistical Society B* 57, 289-300.
#' @seealso [correlations()], [align_as_of()].
#' @concept leading indicator
#' @examples
#' ledger <- read_records(demo_file("ledger.csv"), when = "period",
#'   series = "item", known = "entered", measures = c(value = "level")
#' )
#' landings <- read_records(
#'   demo_file("landings.csv"), when = "date", duplicates = "keep",
#'   measures = c(kilos = "flow"), missing = "unsold"
#' )
#' entered <- roll_up(ledger, every = "quarter")
#' landed <- roll_up(landings, every = "quarter", enough = 0.9)
#' both <- put_together(entered, landed)
#' rank_links(both, target = "kilos", ahead = 0:3, horizons = 1)
#' @export
rank_links <- function(
  x, target, ahead = 0:4, horizons = NULL, second = NULL, pairs = 10,
  of = "value"
) {
  check_given()
  check_no_target(x, of)
  check_counts(ahead, "ahead", 0)
  figures <- figures_across(x, of)
  horizons <- check_horizons(horizons, figures)
  lines <- figures$lines
  check_one_of(target, lines, "target")
  if (!is.null(second)) {
    check_one_of(second, setdiff(lines, target), "second")
  }
  figures <- without_carried_on(figures, c(target, second))
  asked <- expand.grid(ahead = ahead, horizon = horizons)
  found <- links_at(figures$values, match(target, lines), asked, pairs)
  seasonal <- seasonal_lines_of(figures)
  alike <- seasonal[match(target, lines)] & seasonal[found$candidate] &
    !over_cycles(found$horizon, figures$calendar)
  out <- not_judged(new_rows(
    candidate = lines[found$candidate], found[-1],
    chance_of(found$coefficient, found$n_effective, "pearson", 0.95)
  ), alike)
  out$q <- false_share(out$p)
  out <- steadiness_of(out, found)
  if (!is.null(second)) {
    other <- links_at(figures$values, match(second, lines), asked, pairs)
    keys <- c("candidate", "horizon", "ahead")
    at <- vctrs::vec_match(found[keys], other[keys])
    out$with_second <- other$coefficient[at]
  }
  out <- out[order(out$p, -abs(out$coefficient), method = "radix"), ]
  kept <- c(
    link_columns, if (length(horizons) > 1) "same_over_horizons",
    if (!is.null(second)) "with_second"
  )
  new_result(out[kept], "links", list(
    target = target, second = second, of = of, pairs = pairs,
    candidates = length(lines) - 1, calendar = figures$calendar,
    alike = sum(alike & !is.na(out$coefficient)),
    sources = figures$sources
  ))
}

# A column that looks ahead can be a target, but explains nothing.
check_no_target <- function(x, of) {
  if (isTRUE(facts(x)$added[[of]]$target)) {
    abort_backfill(
      "column", "Column \"{of}\" looks ahead: it explains nothing.",
      i = "A figure that is not known yet cannot tell what comes.",
      ">" = "Leave `of` out; `ahead` says how far ahead the target lies."
    )
  }
}

check_horizons <- function(horizons, figures) {
  horizons <- horizons %||% if (figures$already) 0 else 1
  check_counts(horizons, "horizons", 0)
  horizons
}

check_counts <- function(x, argument, least) {
  if (!are_numbers(x) || any(x != floor(x) | x < least | x > 1e4)) {
    abort_backfill(
      "argument", "`{argument}` is {value_in_words(x)}.",
      i = "It must be whole numbers of periods, {least} or more."
    )
  }
}

# A row for each candidate at each of the horizons and leads `asked`: its change
# over the horizon, and the target's change over the same that ends later.
links_at <- function(values, target, asked, pairs) {
  vctrs::vec_rbind(!!!Map(function(ahead, horizon) {
    found <- links_cpp(values, target - 1L, horizon, ahead)
    out <- vctrs::data_frame(
      candidate = seq_len(ncol(values)), horizon = horizon, ahead = ahead,
      !!!found
    )
    few <- out$n < pairs
    out$coefficient[few] <- NA
    out[-target, ]
  }, asked$ahead, asked$horizon))
}

# Changes over whole cycles have no season.
over_cycles <- function(horizon, calendar) {
  cycle <- if (!is.null(calendar)) known_cycle(calendar)
  if (is.null(cycle)) {
    return(rep(FALSE, length(horizon)))
  }
  horizon > 0 & horizon %% check_cycle(NULL, calendar)$length == 0
}

link_columns <- c(
  "candidate", "horizon", "ahead", "coefficient", "n", "distinct",
  "n_effective", "lower", "upper", "p", "q", "same_sign", "rank_first",
  "rank_later"
)

# How steady each link is: whether its sign is that of both halves, its place by
# strength in each of them, and whether its sign is the same at all horizons.
steadiness_of <- function(out, found) {
  place <- function(r) {
    rank(-abs(r), na.last = "keep", ties.method = "min")
  }
  out$same_sign <- sign(found$first_half) == sign(found$later_half)
  out$rank_first <- as.integer(place(found$first_half))
  out$rank_later <- as.integer(place(found$later_half))
  of <- vctrs::vec_group_id(found[c("candidate", "ahead")])
  alike <- tapply(sign(found$coefficient), of, function(sign) {
    abs(sum(sign, na.rm = TRUE)) == sum(!is.na(sign))
  })
  out$same_over_horizons <- as.vector(alike[of]) & !is.na(found$coefficient)
  out
}

# Benjamini and Hochberg: the least share of false finds at which each would
# still be named.
false_share <- function(p) {
  known <- which(!is.na(p))
  order <- known[order(p[known], decreasing = TRUE)]
  m <- length(known)
  q <- rep(NA_real_, length(p))
  q[order] <- cummin(pmin(1, p[order] * m / seq(m, 1, length.out = m)))
  q
}
