# The axis of values as a user asks for it. An axis is list(from_zero, log,
# limits, said): the panels whose axis reaches down to zero, whether steps are
# those of a factor, the ends that it is cut at, and what the caption says.

# `values` is FALSE for a figure without such an axis, where nothing can be
# asked.
asked_axis <- function(zero, log, limits, data, from_zero, values) {
  check_axis(zero, log, limits, values)
  if (log) check_log_axis(zero, data)
  if (isTRUE(zero)) from_zero <- levels(data$panel)
  if (isFALSE(zero) || log) from_zero <- character()
  list(
    from_zero = from_zero, log = log, limits = limits,
    said = c(
      if (log) paste(
        "The value axis is logarithmic: equal steps are equal percentages."
      ),
      if (!is.null(limits)) cut_in_words(limits, data)
    )
  )
}

check_axis <- function(zero, log, limits, values) {
  if (!is.null(zero)) check_flag(zero, "zero")
  check_flag(log, "log")
  check_limits(limits)
  if (!values && (!is.null(zero) || log || !is.null(limits))) {
    abort_backfill(
      "argument",
      "`zero`, `log` and `limits` are of the value axis of lines and years.",
      ">" = "Leave them out, or set `type` to \"lines\"."
    )
  }
}

check_limits <- function(limits) {
  if (is.null(limits)) {
    return()
  }
  if (
    !are_numbers(limits) || length(limits) != 2 || limits[[1]] >= limits[[2]]
  ) {
    abort_backfill(
      "argument", "`limits` is {value_in_words(limits)}.",
      i = "It must be the lower and the upper end of the axis, such as c(0,",
      "50)."
    )
  }
}

check_log_axis <- function(zero, data) {
  if (isTRUE(zero)) {
    abort_backfill(
      "argument", "`log` and `zero` are both asked for.",
      i = "A logarithmic axis never reaches zero."
    )
  }
  if (any(data$figure <= 0, na.rm = TRUE)) {
    abort_backfill(
      "argument", "`log` is asked for, but there are figures of zero or less.",
      ">" = "Leave `log` out."
    )
  }
}

cut_in_words <- function(limits, data) {
  outside <- sum(
    data$figure < limits[[1]] | data$figure > limits[[2]], na.rm = TRUE
  )
  sprintf(
    "The value axis is cut at %s and %s%s.", plain_format(limits[[1]]),
    plain_format(limits[[2]]),
    if (outside > 0) {
      sprintf("; %s outside", count_of(outside, "figure lies", "figures lie"))
    } else {
      ""
    }
  )
}

# Makes the axis of each panel of `from_zero` reach down to zero.
value_axis <- function(data, axis, unit, headroom) {
  zero <- data[match(axis$from_zero, data$panel), ]
  zero$figure <- rep(0, nrow(zero))
  list(
    ggplot2::scale_y_continuous(
      labels = figure_labels(unit), expand = ggplot2::expansion(
        mult = c(0.02, headroom)
      ),
      limits = axis$limits, trans = if (axis$log) "log10" else "identity"
    ),
    ggplot2::geom_blank(data = zero)
  )
}
