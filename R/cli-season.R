# `backfill season`: the season of each series, what is left without it, and
# what it says of the periods to come.

command_season <- function() {
  list(
    name = "season",
    inputs = "FILE...",
    run = run_season,
    about = paste(
      "See how each month, weekday or other position compares with average.",
      "Or give the steps of that calculation, the values without the season,",
      "their trend, a projection, a profile or a grid of positions, or when",
      "the season starts and ends in each year."
    ),
    options = c(
      input_options(), options_of("seasonal_index", index_map),
      list(
        tests = cli_flag(paste(
          "Give the tests, and the spread before and after, of each series;",
          "with --project the check on the last cycle."
        )),
        worksheet = cli_flag(paste(
          "Give every step of the calculation, row by row; with --project",
          "those to the projection, too."
        )),
        averages = cli_flag(
          "With --spells give average onset and end, and the spread."
        )
      ),
      options_of_verbs(season_verbs),
      list(
        save = cli_option(
          "FILE", "Write the index to FILE, as json, to use it again."
        )
      ),
      output_options(paste(
        "How the figure is drawn: index (the default), ratios, adjusted or",
        "positions; of a grid lines or tiles."
      ))
    ),
    examples = c(
      "backfill season inns.csv --figure season.png",
      "backfill season inns.csv --project \"1 year\""
    ),
    wants = c(
      "See the season" = "season FILE",
      "Take the season out" = "season FILE --adjust",
      "Project the periods to come" = "season FILE --project \"1 year\""
    )
  )
}

index_map <- c("cycle", "form", "method", "combine", "normalise")
season_verbs <- list(
  deseasonalise = c(adjust = "", index = "index"),
  reseasonalise = c("put-back" = "", index = "index"),
  trend_line = c(trend = "", confidence = "confidence"),
  season_revisions = c(revisions = ""),
  calendar_effects = c(
    calendar = "", days = "days", festivals = "festivals", before = "before",
    after = "after", confidence = "confidence"
  ),
  add_calendar_adjusted = c("calendar-adjust" = ""),
  project = c(project = "periods", base = "base", confidence = "confidence"),
  cycle_profile = c(
    profile = "position", apart = "apart", stat = "stat", holds = "holds"
  ),
  cycle_grid = c(grid = "rows", stat = "stat"),
  season_spells = c(spells = "seasons", reach = "reach", seed = "seed")
)

# What each result uses.
season_results <- function() {
  drawn <- c("events", axis_options)
  indexed <- c(index_map, "save", "type")
  results <- options_of_results(season_verbs)
  results$adjust <- c(indexed, "index", drawn)
  results[["put-back"]] <- c("index", drawn)
  results$trend <- c(index_map, "save", "confidence")
  results$revisions <- setdiff(index_map, "normalise")
  results$calendar <- c(results$calendar, "form")
  results[["calendar-adjust"]] <- c(results$calendar, drawn)
  results$project <- c(
    setdiff(index_map, "normalise"), "base", "confidence", drawn
  )
  results$grid <- c(results$grid, "type")
  results$spells <- c(results$spells, "averages")
  c(list(plain = indexed, tests = indexed, worksheet = indexed), results)
}

run_season <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  # Of a projection, its check or its worksheet may be asked for.
  of_ahead <- if (is_given(options$project)) {
    one_result(options, c("tests", "worksheet"))
  }
  results <- season_results()
  asked <- result_asked(options, results, one_result(
    options, setdiff(names(results), of_ahead)
  ))
  check_season_options(options, asked, inputs)
  read <- read_and_tell(options, inputs)
  aside <- read$aside
  of_records <- asked %in% c("profile", "grid") && is.null(options$every)
  x <- if (of_records) {
    read$records
  } else {
    rolled_as_read(read, options)
  }
  made <- season_result(x, asked, options)
  if (is_periods(made) && length(of_ahead) == 0) {
    type <- if (asked == "adjust") options$type
    of <- switch(
      asked, adjust = "adjusted", "put-back" = "reseasonalised",
      "calendar-adjust" = "calendar_adjusted", "value"
    )
    options["type"] <- list(type)
    return(put_periods(made, aside, format, options, of = of))
  }
  before <- if (!of_records) describe_standing(x)
  put_season(made, aside, format, options, before, c(asked, of_ahead))
}

# A result, drawn as what it was made from where it has no figure of its own.
put_season <- function(made, aside, format, options, before, asked) {
  drawn <- made
  if (asked[[1]] %in% c("tests", "worksheet")) {
    drawn <- attr(made, "index")
  } else if (length(asked) > 1) {
    made <- summary(
      made, type = if (asked[[2]] == "tests") "check" else asked[[2]]
    )
  }
  if (options$averages) made <- summary(made)
  type <- options$type %||% if (asked[[1]] == "worksheet") "adjusted"
  put_finding(
    made, aside, format, options, before = before,
    # Of several series in short, see table_cells().
    rows = if (inherits(made, "backfill_seasonal_index")) 400 else Inf,
    draw = function() {
      if (is.null(type)) {
        autoplot(drawn, highlight = options$highlight)
      } else {
        autoplot(drawn, type = type, highlight = options$highlight)
      }
    }
  )
}

# What is wrong with the options is said before the file is read.
check_season_options <- function(options, asked, inputs) {
  if (asked == "put-back" && is.null(options$index)) {
    stop_usage(
      "--put-back is given without --index.",
      ">" = "Name the index whose season is put back."
    )
  }
  if (is_given(options$index)) {
    refuse_options(
      options, c(index_map, "save"), "the index is that of `--index`"
    )
  }
  if (asked %in% c("profile", "grid") && is.null(options$every)) {
    # The calendar's holidays are those of the working days that are kept, too.
    kept <- if (is_given(options[["keep-workdays"]])) "holidays"
    refuse_options(
      options, setdiff(names(rolling_options()), c("every", kept)),
      sprintf("--%s is one of the records themselves", asked),
      "Roll them up first: `--every`."
    )
  }
  if (is_given(options$save)) {
    with_spelling(
      "save", check_output(options$save, files_read(options, inputs))
    )
    check_apart(unlist(options[c("out", "figure", "aside", "save")]))
  }
}

season_result <- function(x, asked, options) {
  run <- function(further = NULL, ...) {
    verb <- verb_asked(season_verbs, asked)
    run_verb(verb, x, options, c(season_verbs[[verb]], further), ...)
  }
  switch(
    asked,
    profile = , grid = , spells = run(), "put-back" = run(of = "value"),
    project = , revisions = run(setdiff(index_map, "normalise")),
    calendar = run("form"), "calendar-adjust" = add_calendar_adjusted(
      x, run_verb(
        "calendar_effects", x, options, c(season_verbs$calendar_effects, "form")
      )
    ),
    of_index(x, asked, options)
  )
}

of_index <- function(x, asked, options) {
  if (asked == "adjust" && is_given(options$index)) {
    return(run_verb(
      "deseasonalise", x, options, season_verbs$deseasonalise
    ))
  }
  index <- run_verb("seasonal_index", x, options, index_map)
  if (is_given(options$save)) {
    write_index(index, options$save)
  }
  switch(
    asked,
    plain = index, adjust = deseasonalise(x, index),
    trend = run_verb(
      "trend_line", deseasonalise(x, index), options, season_verbs$trend_line
    ),
    structure(summary(index, type = asked), index = index)
  )
}
