# `backfill season`: the season of each series, what is left without it, and what it says of the periods to come.

command_season <- function() {
  list(
    name = "season",
    inputs = "FILE...",
    run = run_season,
    about = paste(
      "Roll the dated records of a file up to regular periods, and find how a season that comes back runs against the",
      "average: an index for each month, weekday or other position of the cycle, with tests. Or one of: the steps of",
      "the calculation, the values without the season, their trend, a projection, a profile or a grid of positions."
    ),
    options = c(
      reading_options(),
      rolling_options(),
      list(
        cycle = cli_option("LENGTH", paste(
          "After how long the season comes back: a number of periods, or such as \"1 year\". By default a",
          "year of months, quarters and weeks, a week of days and hours."
        )),
        form = cli_option("FORM", "multiplicative (the default) or additive."),
        method = cli_option("METHOD", paste(
          "What values are compared with: \"centred average\" over a cycle (the default) or \"overall average\"."
        )),
        combine = cli_option("HOW", paste(
          "How the ratios of a position are combined: mean (the default), median or \"trimmed mean\"."
        )),
        tests = cli_flag("Give the tests, and the spread before and after, of each series."),
        worksheet = cli_flag("Give every step of the calculation, row by row."),
        adjust = cli_flag("Give the periods with their values without the season."),
        trend = cli_flag("Give the straight line through each series without its season."),
        project = cli_option("LENGTH", "Give the periods with a projection over LENGTH, such as 12 or \"1 year\"."),
        base = cli_option("WHAT", "What a projection carries on: level (the default) or line."),
        profile = cli_option("POSITION", paste(
          "Give the profile over POSITION: hour, weekday, \"day of month\", \"day of year\", week, month, third or",
          "quarter; of the records themselves unless --every is given."
        )),
        split = cli_option("POSITION", paste(
          "A profile for each POSITION of another kind, weekend, or the values of a column."
        )),
        grid = cli_option("ROWS,COLUMNS", paste(
          "Give a grid of two positions, such as weekday,hour; or date,hour; or year,month."
        )),
        stat = cli_option("STATISTIC", paste(
          "Of a profile or grid: mean (the default), median, total or a quantile such as 90%."
        )),
        index = cli_option("FILE", paste(
          "With --adjust: an index that --save wrote, instead of that of the periods themselves."
        )),
        save = cli_option("FILE", "Write the index to FILE, as json, to use it again.")
      ),
      output_options(paste(
        "How the figure is drawn: index (the default), ratios, adjusted or positions; of a grid lines or tiles."
      ))
    ),
    notes = c(
      input_note,
      "",
      "Examples:",
      "  backfill season nights.csv --when month --series island --measure guest_nights:flow --figure season.png",
      "  backfill season nights.csv --when month --measure guest_nights:flow --by none --worksheet --out steps.xlsx",
      "  backfill season nights.csv --when month --series island --measure guest_nights:flow --project \"1 year\"",
      "  backfill season sailings.csv --when time --zone WET --measure north:flow --profile hour --split weekend"
    )
  )
}

season_results <- c("tests", "worksheet", "adjust", "trend", "project", "profile", "grid")

run_season <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  asked <- Filter(function(name) !is.null(options[[name]]) && !isFALSE(options[[name]]), season_results)
  if (length(asked) > 1) {
    stop_usage(sprintf("%s are given, but one result at a time can be.", in_words(paste0("--", asked))))
  }
  asked <- if (length(asked) == 0) "index" else asked
  check_season_options(options, asked, inputs)
  read <- read_and_tell(options, inputs)
  aside <- set_aside(read$records)
  of_records <- asked %in% c("profile", "grid") && is.null(options$every)
  x <- if (of_records) read$records else rolled(read$records, read$calendar, options)
  made <- season_result(x, asked, options)
  if (is_periods(made)) {
    type <- if (asked == "adjust") options$type
    of <- if (asked == "adjust") "adjusted" else "value"
    options["type"] <- list(type)
    return(put_periods(made, aside, format, options, of = of))
  }
  drawn <- if (asked %in% c("tests", "worksheet")) attr(made, "index") else made
  put_result(
    made, aside, format, options, attr(made, "season")$sources, said = c(
      if (!of_records) describe_standing(x), describe_result(made)
    ),
    show = function() writeLines(result_lines(made)),
    draw = function() {
      type <- options$type %||% if (asked == "worksheet") "adjusted"
      if (is.null(type)) autoplot(drawn, lift = options$lift) else autoplot(drawn, type = type, lift = options$lift)
    }
  )
}

# What is wrong with the options is said before the file is read.
check_season_options <- function(options, asked, inputs) {
  needs <- c(base = "project", split = "profile", index = "adjust")
  for (option in names(needs)) {
    if (!is.null(options[[option]]) && asked != needs[[option]]) {
      stop_usage(sprintf("--%s is given without --%s.", option, needs[[option]]))
    }
  }
  of_cells <- asked %in% c("profile", "grid")
  if (!is.null(options$stat) && !of_cells) {
    stop_usage("--stat is given without --profile or --grid.")
  }
  if (of_cells) {
    refuse_options(options, c("cycle", "form", "method", "combine"), sprintf("--%s makes no index", asked))
  }
  if (of_cells && is.null(options$every)) {
    refuse_options(options, setdiff(names(rolling_options()), "every"),
                   sprintf("--%s is one of the records themselves", asked), "Roll them up first: `--every`.")
  }
  if (asked %in% c("trend", "project", "profile")) {
    refuse_options(options, "type", sprintf("--%s is drawn in one way", asked))
  }
  if (!asked %in% c("adjust", "project")) {
    refuse_options(options, "events", "the figure has no axis of dates")
  }
  if (!is.null(options$save)) {
    for_options("save", check_output(options$save, files_read(options, inputs), call = NULL))
    need_package("jsonlite", "to write JSON", call = NULL)
    check_apart(unlist(options[c("out", "figure", "aside", "save")]))
    if (asked %in% c("project", "profile", "grid") || !is.null(options$index)) {
      stop_usage("--save is given, but no index is made.")
    }
  }
}

season_result <- function(x, asked, options) {
  if (asked == "profile") {
    return(for_options(c(over = "profile"), {
      cycle_profile(x, options$profile, options$split, options$stat %||% "mean")
    }))
  }
  if (asked == "grid") {
    sides <- two_names(options$grid, "grid", "weekday,hour")
    return(for_options(c(rows = "grid", columns = "grid"), {
      cycle_grid(x, sides[[1]], sides[[2]], options$stat %||% "mean")
    }))
  }
  cycle <- if (!is.null(options$cycle)) number_or_text(options$cycle)
  form <- options$form %||% "multiplicative"
  method <- options$method %||% "centred average"
  combine <- options$combine %||% "mean"
  if (asked == "project") {
    return(for_options(c(periods = "project"), {
      project(x, number_or_text(options$project), options$base %||% "level", cycle = cycle, form = form,
              method = method, combine = combine)
    }))
  }
  index <- if (is.null(options$index)) seasonal_index(x, cycle, form, method, combine) else
    for_options("index", read_index(options$index))
  if (!is.null(options$save)) {
    write_index(index, options$save)
  }
  switch(
    asked,
    index = index, adjust = deseasonalise(x, index), trend = trend_line(deseasonalise(x, index)),
    structure(summary(index, type = asked), index = index)
  )
}
