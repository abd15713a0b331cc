# `backfill moving`: moving averages and other figures of moving windows.

command_moving <- function() {
  list(
    name = "moving",
    inputs = "FILE...",
    run = run_moving,
    about = paste(
      "Roll the dated records of a file up to regular periods, and add a moving average or another figure of a moving",
      "window. Windows that reach outside the data are lost, and counted."
    ),
    options = c(
      reading_options(),
      rolling_options(),
      list(
        window = cli_option("LENGTH", paste(
          "Width of the window: a number of periods, or such as \"1 year\". Give it once for each. Default: one cycle,",
          "such as 12 months."
        ), repeats = TRUE),
        stat = cli_option("STATISTIC", paste(
          "mean (the default), total, median, sd, lowest, highest or a quantile such as 90%. Give it once for each."
        ), repeats = TRUE),
        align = cli_option("ALIGN", "Where the window lies: trailing (the default), centred or leading."),
        weights = cli_option("NAME", paste0("Weights of the mean: ", in_words(weight_names, last = " or "), ".")),
        present = cli_option("SHARE", "The share of a window's periods that must be whole. Default: 1, all of them."),
        "half-life" = cli_option("LENGTH", "Add exponential smoothing in which a period counts half after LENGTH.")
      ),
      output_options("How the figure is drawn: lines (the default), years or distribution.")
    ),
    notes = c(
      input_note,
      "",
      "Examples:",
      "  backfill moving nights.csv --when month --series island --measure guest_nights:flow --window 12 \\",
      "    --align centred --figure smooth.png",
      "  backfill moving prices.csv --when date --measure price:level --every day --window \"30 days\" --stat highest"
    )
  )
}

run_moving <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  rolled <- roll_input(options, inputs)
  periods <- rolled$periods
  every <- roles(periods)$calendar
  if (!is.null(options$weights)) {
    periods <- add_moving(periods, weights = options$weights, align = options$align)
  }
  windows <- options$window
  if (is.null(windows) && is.null(options$weights) && is.null(options[["half-life"]])) {
    if (!has_cycle(every)) {
      stop_usage(sprintf("`window` is not given, and %s have no cycle of their own.", period_noun(every, 2)),
                 ">" = "Name a number of periods.")
    }
    windows <- one_cycle[[every$unit]]
  }
  asked <- expand.grid(stat = options$stat %||% "mean", window = windows, stringsAsFactors = FALSE)
  for (i in seq_len(nrow(asked))) {
    window <- asked$window[[i]]
    name <- paste0("moving_", gsub("%", "_percent", asked$stat[[i]], fixed = TRUE))
    periods <- for_options(c(enough = "present"), add_moving(
      periods, window = number_or_text(window), stat = asked$stat[[i]], align = options$align,
      enough = number_or_text(options$present %||% "1"),
      name = if (length(windows) > 1) paste0(name, "_", gsub(" ", "_", window)) else name
    ))
  }
  if (!is.null(options[["half-life"]])) {
    periods <- add_smoothed(periods, half_life = number_or_text(options[["half-life"]]))
  }
  put_periods(periods, rolled$aside, format, options)
}
