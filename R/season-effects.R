#' Effects of the calendar
#'
#' What the calendar does to months or quarters besides the season: that one has
#' five Saturdays and the next four, that February has a leap day, that a
#' festival falls in March this year and in April the next. Published figures
#' are mostly cleared of it, and a comparison with the year before is fair only
#' then. [add_calendar_adjusted()] takes it out.
#'
#' The number of each weekday in a period, less that of its Sundays, the leap
#' day, and the share of the festival's days that fall into the period are
#' regressed on, beside a trend and a season that both may move: in \eqn{(1 -
#' B)(1 - B^s)\,y_t = (1 - B)(1 - B^s)\,x_t'\beta + (1 - \theta B)(1 - \Theta
#' B^s)\,\epsilon_t}{(1 - B)(1 - B^s) y[t] = (1 - B)(1 - B^s) x[t]' beta + (1 -
#' theta B)(1 - Theta B^s) e[t]} \eqn{y} is the value, or its logarithm, and
#' \eqn{s} a year. \eqn{\theta}{theta} and \eqn{\Theta}{Theta} are not chosen:
#' the estimates of 70 pairs of them are averaged, each weighted by its
#' restricted likelihood (Harville 1977), and how far they lie apart widens the
#' intervals. Weekdays are tested together by an F statistic, with as many
#' degrees of freedom as periods are compared, less the effects and two for
#' trend and season. A period without a value is left out, with those that are
#' compared with it; so are outliers, up to one value in 20: each in turn that
#' lies further off than the largest of so many would by chance in one series of
#' 20 (Chen and Liu 1993).
#'
#' An effect is that of one more such day in place of an average one, in percent
#' of the period's value, or in additive form in its unit. Those of the weekdays
#' add up to none.
#'
#' @eval rates_section("calendar_effects")
#'
#' @inheritParams series_summary
#' @param x A periods table of months or quarters, from [roll_up()].
#' @param days `"each"` weekday by itself, or `"working"` days against the
#'   others, which takes one figure instead of six and finds less; working are
#'   those of the table's [calendar()] where it has some, else Monday to Friday.
#'   `"none"` leaves the weekdays and the leap day out.
#' @param festivals `Date` vector of days of a festival or another event that
#'   moves, such as [read_holidays()] gives; `NULL` for none.
#' @param before,after How many days before and after each of these count as
#'   well.
#' @param form `"multiplicative"` where effects grow with the value, which must
#'   be above zero; else `"additive"`.
#' @param confidence The share of cases in which an interval is to hold the true
#'   effect, and in which nothing is found where there is nothing.
#' @return A tibble with a row for each series and effect: the series columns,
#'   `measure`, `effect` (a weekday, `"working day"`, `"leap day"`,
#'   `"festival"`), `estimate`, `lower` and `upper` (in percent, or the unit),
#'   `p`, `joint_p` (of all weekdays together), `n` (the periods that the fit
#'   rests on) and `verdict`: `"found"`, `"not found"`, or `"cannot be
#'   told"`: with fewer than 14 periods more than a year and the effects take,
#'   or where the season has the effect already, as a festival that never moves.
#' @section Errors: `backfill_error_input` where `x` is not a periods table of
#'   months or quarters of the civil calendar; `backfill_error_season` for
#'   values of zero or less in multiplicative form; `backfill_error_argument`.
#' @references Young, A. H. (1965). *Estimating Trading-Day Variation in
#'   Monthly Economic Time Series*. Technical Paper 12, US Bureau of the
#'   Census. Bell, W. R. and Hillmer, S. C. (1983). Modeling time series with
#'   calendar variation. *Journal of the American Statistical Association* 78,
#'   526-534. Chen, C. and Liu, L.-M. (1993). Joint estimation of model
#'   parameters and outlier effects in time series. *Journal of the American
#'   Statistical Association* 88, 284-297. Harville, D. A. (1977). Maximum
#'   likelihood approaches to variance component estimation and to related
#'   problems. *Journal of the American Statistical Association* 72, 320-338.
#' @seealso [add_per_day()], which divides by the days alone.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' calendar_effects(roll_up(nights, every = "month"), days = "working")
#' @concept trading days
#' @concept moving holidays
#' @export
calendar_effects <- function(
  x, days = "each", festivals = NULL, before = 0, after = 0,
  form = "multiplicative", confidence = 0.95, of = "value"
) {
  check_given()
  x <- check_periods(x)
  check_effects_asked(facts(x)$calendar, days, festivals, before, after)
  check_not_empty(x)
  along <- along_series(x, of)
  keys <- keys_at(x, along, first_rows(along)$first)
  ratio <- form == "multiplicative"
  check_for_percent(along, keys, ratio)
  told <- list(
    days = days, festivals = as.numeric(festivals), before = before,
    after = after
  )
  check_festivals_there(range(along$number), along$calendar, told)
  found <- fitted_effects(along, told, ratio)
  made <- found$made
  rows <- effect_rows(found$fits, keys, ratio, confidence)
  new_result(rows, "calendar_effects", list(
    of = of, form = form, confidence = confidence, told = told,
    coefficients = list(
      keys = keys, names = found$names, values = made$estimate
    ),
    apart = new_rows(
      line = names_of_lines(keys)[made$apart_line],
      period = period_start(made$apart_number, along$calendar)
    ),
    unit = facts(x)$added[[of]]$unit, calendar = facts(x)$calendar,
    series = facts(x)$series, measures = facts(x)$measures,
    several = several_measures(x), sources = facts(x)$sources
  ), needed = c("measure", "effect", "estimate", "joint_p", "verdict"))
}

tells_weekdays <- function(calendar) {
  calendar$unit %in% c("month", "quarter") && calendar$number == 1 &&
    base_of(calendar) == "month"
}

check_effects_asked <- function(calendar, days, festivals, before, after) {
  if (!tells_weekdays(calendar)) {
    abort_backfill(
      "input", "The table has {period_noun(calendar, 2)}.",
      i = "Weekdays and moving festivals are told by months or quarters of the",
      "civil calendar, which have unlike numbers of them."
    )
  }
  if (!is.null(festivals) &&
        (!inherits(festivals, "Date") || anyNA(festivals))) {
    abort_backfill(
      "argument",
      "`festivals` is {value_in_words(festivals)}; it must be a Date vector.",
      ">" = "read_holidays() makes one of an iCalendar file."
    )
  }
  if (is.null(festivals)) {
    check_meant(before > 0, "before", "there are no `festivals`")
    check_meant(after > 0, "after", "there are no `festivals`")
    if (days == "none") {
      abort_backfill(
        "argument", "`days` is \"none\", and there are no `festivals`.",
        ">" = "Ask for one of them."
      )
    }
  }
}

check_festivals_there <- function(range, calendar, told) {
  if (length(told$festivals) == 0) {
    return()
  }
  if (sum(festival_shares(seq(range[[1]], range[[2]]), calendar, told)) == 0) {
    abort_backfill(
      "argument",
      "None of the `festivals`",
      "({in_words(day_label(.Date(told$festivals)), 3)}) lies within the",
      "periods of the table."
    )
  }
}

check_for_percent <- function(along, keys, ratio) {
  low <- if (ratio) which(along$value <= 0)
  if (length(low) > 0) {
    line <- first_rows(along)$line[low]
    abort_backfill(
      "season",
      "{in_words(unique(names_of_lines(keys)[line]), 4)}: effects in percent",
      "need values above zero.",
      ">" = "Set `form` to \"additive\"."
    )
  }
}

# For each effect that is shown, what it is of those that are estimated: of
# Sundays it is what the other weekdays leave.
shown_effects <- function(names) {
  shown <- diag(length(names))
  rownames(shown) <- names
  weekdays <- names %in% weekday_names
  if (any(weekdays)) {
    last <- max(which(weekdays))
    shown <- rbind(
      shown[seq_len(last), , drop = FALSE], Sunday = -as.numeric(weekdays),
      shown[-seq_len(last), , drop = FALSE]
    )
  }
  shown
}

# Of each line and effect its estimate, error, degrees of freedom and chances.
estimates_of_effects <- function(made, names) {
  shown <- shown_effects(names)
  days <- rownames(shown) %in% c(weekday_names, "working day")
  tested <- names %in% c(weekday_names, "working day")
  each <- lapply(seq_len(ncol(made$estimate)), function(i) {
    variance <- matrix(made$variance[, i], length(names))
    estimate <- made$estimate[, i]
    free <- made$size[2, i]
    own <- error <- rep(NA_real_, nrow(shown))
    # What others are made of may be known where one of them is not.
    for (j in seq_len(nrow(shown))) {
      parts <- which(shown[j, ] != 0)
      share <- shown[j, parts]
      own[j] <- sum(share * estimate[parts])
      error[j] <- sqrt(sum(share * (variance[parts, parts] %*% share)))
    }
    p <- 2 * stats::pt(-abs(own) / error, max(free, 1))
    joint <- p
    if (any(tested) && !anyNA(estimate[tested])) {
      together <- sum(estimate[tested] * solve(
        variance[tested, tested, drop = FALSE], estimate[tested]
      )) / sum(tested)
      joint[days] <- stats::pf(
        together, sum(tested), free, lower.tail = FALSE
      )
    }
    new_rows(
      effect = rownames(shown), estimate = own, error = error, free = free,
      n = as.integer(made$size[1, i]), p = p, joint_p = joint
    )
  })
  list(each = each, effects = nrow(shown))
}

# The lines of sums in which weekdays clearly matter, which whoever looks for a
# season will want to know. Of many none is looked at.
moved_by_weekdays <- function(along, keys, form, role) {
  sums <- vapply(role$measures, function(one) one$use == "sum", NA)
  ratio <- form == "multiplicative"
  if (!tells_weekdays(along$calendar) || nrow(keys) > 30 || !all(sums) ||
        ratio && any(along$value <= 0, na.rm = TRUE)) {
    return(NULL)
  }
  told <- list(days = "each", festivals = numeric())
  fits <- fitted_effects(along, told, ratio)$fits
  chance <- vapply(fits$each, function(one) one$joint_p[[1]], 0)
  names_of_lines(keys)[which(chance < 0.01)]
}

# list(made, names, fits): what the kernel gives, the names of the effects, and
# what follows of each line.
fitted_effects <- function(along, told, ratio) {
  counts <- calendar_counts(range(along$number), along$calendar, told)
  made <- calendar_effects_cpp(
    along$series, along$number, if (ratio) log(along$value) else along$value,
    counts, min(along$number), check_cycle("1 year", along$calendar)$length
  )
  list(
    made = made, names = colnames(counts),
    fits = estimates_of_effects(made, colnames(counts))
  )
}

# So many periods more than effects must be compared: two for how far trend and
# season keep to their place, and what src/kernels/effects.h asks for.
least_beside <- 14L

effect_rows <- function(fits, keys, ratio, confidence) {
  all <- vctrs::vec_rbind(!!!fits$each)
  reach <- all$error * stats::qt((1 + confidence) / 2, pmax(all$free, 1))
  as_shown <- if (ratio) function(x) 100 * expm1(x) else identity
  new_rows(
    vctrs::vec_rep_each(keys, fits$effects), effect = all$effect,
    estimate = as_shown(all$estimate), lower = as_shown(all$estimate - reach),
    upper = as_shown(all$estimate + reach), p = all$p, joint_p = all$joint_p,
    n = all$n, verdict = ifelse(
      is.na(all$joint_p), "cannot be told",
      ifelse(all$joint_p <= 1 - confidence, "found", "not found")
    )
  )
}
