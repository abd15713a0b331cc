# `backfill moving`: moving averages and other figures of moving windows.

command_moving <- function() {
  list(
    name = "moving",
    inputs = "FILE...",
    run = run_moving,
    about = paste(
      "Add a moving average, or another figure of a moving window.",
      "Windows that reach outside the data are lost, and counted."
    ),
    options = c(
      input_options(), options_of("add_moving", moving_map),
      options_of("add_smoothed", smoothed_map),
      output_options(paste(
        "How the figure is drawn: lines (the default), years or",
        "distribution."
      ))
    ),
    examples = c(
      "backfill moving inns.csv --window 12 --figure smooth.png",
      "backfill moving crossings.csv --every day --window 30 --stat highest"
    ),
    wants = c(
      "Smooth, with moving averages" = "moving FILE"
    )
  )
}

moving_map <- c(
  window = "window", stat = "stat", align = "align", weights = "weights",
  present = "present"
)
smoothed_map <- c("half_life", "alpha")

run_moving <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  rolled <- roll_input(options, inputs)
  periods <- with_windows(rolled$periods, options)
  if (length(given_options(options, smoothed_map)) > 0) {
    periods <- run_verb("add_smoothed", periods, options, smoothed_map)
  }
  put_periods(periods, rolled$aside, format, options)
}

with_windows <- function(x, options) {
  # What is said of windows is of these, where some are asked for.
  if (is_given(options$weights)) {
    of_weights <- if (is_given(options$window)) c("weights", "align") else
      setdiff(names(moving_map), "window")
    x <- run_verb("add_moving", x, options, moving_map[of_weights])
  } else if (!is_given(options$window)) {
    refuse_beside_smoothed(options)
  }
  windows <- options$window %||% default_window(x, options)
  asked <- expand.grid(
    stat = options$stat %||% "mean", window = windows, stringsAsFactors = FALSE
  )
  for (i in seq_len(nrow(asked))) {
    window <- asked$window[[i]]
    name <- paste0(
      "moving_", gsub("%", "_percent", asked$stat[[i]], fixed = TRUE)
    )
    one <- replace(options, c("window", "stat"), list(window, asked$stat[[i]]))
    x <- run_verb(
      "add_moving", x, one, moving_map[names(moving_map) != "weights"],
      name = if (length(windows) > 1) {
        paste0(name, "_", gsub(" ", "_", window))
      } else {
        name
      }
    )
  }
  x
}

refuse_beside_smoothed <- function(options) {
  smoothed <- given_options(options, smoothed_map)
  if (length(smoothed) > 0) {
    refuse_options(
      options, c("stat", "align", "present"),
      sprintf("`--%s` has no window", smoothed[[1]]), "Give `--window` too."
    )
  }
}

# One cycle of the periods, unless something else is asked for.
default_window <- function(x, options) {
  every <- facts(x)$calendar
  if (length(given_options(options, c("weights", smoothed_map))) > 0) {
    return(NULL)
  }
  if (!has_cycle(every)) {
    stop_usage(
      "`window` is not given, and {period_noun(every, 2)} have no cycle of",
      "their own.",
      ">" = "Name a number of periods."
    )
  }
  one_cycle[[every$unit]]
}
