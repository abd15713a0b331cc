#' Draw autocorrelation
#'
#' A stem for each lag from 1 on, with the band that chance keeps to shaded, and
#' a mark at each whole cycle.
#'
#' @param object An autocorrelation, from [autocorrelation()], or a
#'   [cross_correlation()].
#' @param type `"coefficient"`, or `"partial"` for partial autocorrelations.
#' @param reference `TRUE` adds a panel of white noise of the same length, so
#'   that a reader sees what chance looks like.
#' @param seed Seed of that noise.
#' @param highlight Names of the series to draw, where there are more than
#'   eight.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' autoplot(autocorrelation(roll_up(nights, every = "month")), reference = TRUE)
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_autocorrelation <- function(
  object, type = "coefficient", reference = FALSE, seed = 1, highlight = NULL,
  ...
) {
  refuse_further(...)
  about <- facts(object)
  check_one_of(type, c("coefficient", "partial"), "type")
  check_flag(reference, "reference")
  column <- columns_of_type[[type]]
  if (!column %in% names(object)) {
    abort_backfill(
      "column", "The autocorrelation was made without partial ones."
    )
  }
  data <- lags_drawn(object, type, highlight)
  data <- data[!is.na(data$r), ]
  check_any(data, "coefficients")
  if (reference) {
    noise <- noise_panel(max(about$count$reach), about, type, seed)
    data <- rbind(data, noise)
  }
  data$line <- factor(data$line, unique(data$line))
  what <- c(
    coefficient = "Autocorrelation", partial = "Partial autocorrelation"
  )[[type]]
  cycles <- about$most >= (about$cycle$length %||% Inf)
  stems(data, about) +
    ggplot2::scale_x_continuous(
      breaks = lag_breaks(about$most, about$cycle$length),
      expand = ggplot2::expansion(mult = 0.02)
    ) +
    in_panels(nlevels(data$line)) +
    ggplot2::labs(
      title = sprintf("%s of %s", what, subject_in_words(about, object)),
      x = sprintf("Lag in %s", period_noun(about$calendar, 2)), y = NULL,
      caption = season_caption(about),
      subtitle = sprintf(
        "Shaded: where %g%% of lags lie by chance. Orange: outside.%s",
        100 * about$confidence, if (cycles) " Dotted: whole cycles." else ""
      )
    )
}

columns_of_type <- c(
  coefficient = "coefficient", partial = "partial_coefficient"
)

# The lags of each line, with the limits of the coefficients of `type`.
lags_drawn <- function(object, type, highlight) {
  about <- facts(object)
  line <- lines_of_result(object)
  data <- data.frame(
    line = line, lag = object$lag, r = object[[columns_of_type[[type]]]],
    upper = object$upper
  )
  data <- data[rows_in_panels(line, highlight), ]
  if (type == "partial") {
    # Those of white noise, whatever the band.
    counted <- names_of_lines(
      about$count[c(about$series, "measure")], about$several
    )
    count <- about$count$periods[match(data$line, counted)]
    data$upper <- stats::qnorm((1 + about$confidence) / 2) / sqrt(count)
  }
  data
}

#' @exportS3Method ggplot2::autoplot
autoplot.backfill_cross_correlation <- function(object, ...) {
  refuse_further(...)
  about <- facts(object)
  data <- data.frame(
    line = "", lag = object$lag, r = object$coefficient, upper = object$upper
  )
  stems(data, about) + ggplot2::labs(
    title = sprintf("%s with %s at other periods", about$first, about$second),
    y = NULL,
    x = sprintf(
      "Lag in %s: to the right %s leads, to the left %s",
      period_noun(about$calendar, 2), about$first, about$second
    ),
    subtitle = sprintf(
      "Of %s. Shaded: where %g%% of lags lie by chance. Orange: outside.",
      if (about$on == "values") "values" else
        "changes from period to period",
      100 * about$confidence
    ), caption = season_caption(about)
  )
}

stems <- function(data, about) {
  data$outside <- abs(data$r) > data$upper
  cycle <- about$cycle$length
  marks <- if (!is.null(cycle) && max(data$lag) >= cycle) {
    at <- cycle * seq(floor(min(data$lag) / cycle), max(data$lag) %/% cycle)
    at[at != 0 & at >= min(data$lag)]
  }
  ggplot2::ggplot(data, ggplot2::aes(.data$lag, .data$r)) +
    theme_backfill() +
    ggplot2::geom_ribbon(
      ggplot2::aes(ymin = -.data$upper, ymax = .data$upper), fill = "#9C9C9C",
      alpha = 0.25
    ) +
    (
      if (length(marks) > 0) {
        ggplot2::geom_vline(
          xintercept = marks, linetype = "dotted", colour = "#5F5F5F"
        )
      }
    ) +
    ggplot2::geom_hline(yintercept = 0, colour = "#333333", linewidth = 0.4) +
    ggplot2::geom_segment(
      ggplot2::aes(xend = .data$lag, yend = 0, colour = .data$outside),
      linewidth = if (max(data$lag) > 60) 0.5 else 0.9
    ) +
    (
      if (max(data$lag) <= 60) {
        ggplot2::geom_point(ggplot2::aes(colour = .data$outside), size = 1.8)
      }
    ) +
    teal_and_orange("FALSE", "TRUE") +
    ggplot2::scale_y_continuous(limits = c(-1, 1), breaks = seq(-1, 1, 0.5))
}

lag_breaks <- function(most, cycle) {
  halves <- !is.null(cycle) && most >= 2 * cycle && cycle %% 2 == 0
  step <- if (halves) cycle / 2 else cycle
  if (is.null(step) || most < step || most / step > 20) {
    ggplot2::waiver()
  } else {
    c(1, seq(step, most, step))
  }
}

# The same of noise; the session's own random numbers go on as if there had been
# none.
noise_panel <- function(n, about, type, seed) {
  need_package("withr", "to draw noise for comparison")
  noise <- withr::with_seed(seed, stats::rnorm(n))
  most <- min(about$most, n - 1)
  made <- autocorrelation_cpp(
    rep(1L, n), as.numeric(seq_len(n)), noise, as.integer(most), TRUE
  )
  data.frame(
    line = sprintf("White noise (seed %g)", seed), lag = seq_len(most),
    r = as.vector(made[[type]]),
    upper = as.vector(
      stats::qnorm((1 + about$confidence) / 2) * lag_errors(made)
    )
  )
}
