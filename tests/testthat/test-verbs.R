# The registry of verbs against the verbs, and the command line against both.

declared <- backfill:::verbs()

# Exported functions that are no verbs: helpers of the calendar, of figures and
# of files, and what asks a result.
helpers <- c(
  "account", "as_records", "as_interactive", "autoplot", "cycle_position",
  "days_in_period",
  "as_periods", "demo_file", "findings", "inspect_file",
  "measure", "moving_weights", "period_end", "period_name", "period_of",
  "period_sequence", "read_holidays",
  "read_index", "read_periods", "read_study", "report_section",
  "rows_set_aside", "run_changes", "run_records", "run_study",
  "study_result",
  "first_look", "study_draft", "study_schema", "study_script", "theme_backfill",
  "write_figure",
  "verdict_rates", "write_index", "write_periods", "write_report"
)

# A default that the help tells is that of the function.
expect_default_told <- function(argument, default, name, verb) {
  form <- "Default: ([^ .,]+(?:[.][0-9]+)?)"
  said <- regmatches(argument$about, regexec(form, argument$about))[[1]]
  if (length(said) > 0 && is.atomic(default) && !is.null(default)) {
    told <- argument$type$parse(said[[2]], name)
    expect_equal(told, default, label = paste(verb, name))
  }
}

test_that("every verb is declared, with just its arguments and their defaults", {
  expect_setequal(
    names(declared), setdiff(getNamespaceExports("backfill"), helpers)
  )
  for (verb in names(declared)) {
    formals <- formals(getExportedValue("backfill", verb))
    of <- declared[[verb]]$arguments
    # The table, or file, comes first; the calendar is made of its own arguments
    # alone.
    worked_on <- if (verb %in% c("calendar", "records_at")) {
      character()
    } else {
      names(formals)[[1]]
    }
    expect_setequal(as.character(names(of)), setdiff(names(formals), worked_on))
    for (name in setdiff(names(of), "...")) {
      expect_default_told(of[[name]], formals[[name]], name, verb)
    }
  }
})

test_that("the command line offers every verb and every argument", {
  commands <- list(
    backfill:::command_inspect(), backfill:::command_periods(),
    backfill:::command_growth(), backfill:::command_moving(),
    backfill:::command_season(), backfill:::command_lags(),
    backfill:::command_flags(), backfill:::command_links(),
    backfill:::command_describe(), backfill:::command_trace()
  )
  for (command in commands) {
    # One option never stands for two things.
    help <- split(
      vapply(command$options, `[[`, "", "help"), names(command$options)
    )
    expect_true(
      all(vapply(help, function(said) length(unique(said)) == 1, NA)),
      label = command$name
    )
  }
  options <- unlist(
    unname(lapply(commands, `[[`, "options")), recursive = FALSE
  )
  offered <- unique(vapply(
    options, function(option) paste(option$of, collapse = " "), ""
  ))
  # In a shell tables are put together by a study.
  apart <- c(
    "add_measures", "rename_measures", "put_together", "join_records"
  )
  for (verb in setdiff(names(declared), apart)) {
    # A column to work on, and a name for the new one, are left to R; so is what
    # other options say already.
    arguments <- setdiff(
      names(declared[[verb]]$arguments), c("of", "name", "zone")
    )
    elsewhere <- list(
      roll_up = "every", calendar = "year_start", add_per_day = "workdays",
      count_bands = "band", rank_changes = "as", keep_dates = "holidays",
      cycle_grid = "columns", cross_correlation = c(
        "second", "lags", "confidence"
      ),
      add_remainder = "index", add_measures = "measures",
      group_differences = "by", series_differences = "confidence",
      level_shifts = c("confidence", "seed"),
      # Given by the options of read_records().
      records_at = names(declared$read_records$arguments),
      project = c("cycle", "form", "method", "combine"),
      season_revisions = c("cycle", "form", "method", "combine"),
      calendar_effects = c("form", "confidence"),
      add_calendar_adjusted = "effects",
      trace_value = c("records", "made_of")
    )
    wanted <- setdiff(arguments, elsewhere[[verb]])
    wanted <- if (length(wanted) == 0) paste(verb, "") else paste(verb, wanted)
    expect_identical(setdiff(wanted, offered), character(), label = verb)
  }
})

nights_file <- function() {
  c(
    demo_file("inns.csv"), "--when", "month", "--series", "inn",
    "--measure", "guest_nights:flow"
  )
}

# What a command gives as data, beside what R gives: the same columns and
# figures.
expect_same_table <- function(given, expected, label) {
  expected <- as.data.frame(expected)
  expect_true(all(names(expected) %in% names(given)), label = label)
  expect_identical(nrow(given), nrow(expected), label = label)
  plain <- function(column) {
    # CSV keeps a leading minus from being a formula by a quotation mark.
    text <- sub("^'(?=-)", "", as.character(column), perl = TRUE)
    replace(text, is.na(text), "")
  }
  for (name in names(expected)) {
    wanted <- expected[[name]]
    if (is.numeric(wanted)) {
      expect_equal(
        as.numeric(given[[name]]), as.numeric(wanted),
        label = paste(label, name), tolerance = 1e-9
      )
    } else if (is.character(wanted) || is.factor(wanted)) {
      expect_identical(
        plain(given[[name]]), plain(wanted), label = paste(label, name)
      )
    }
  }
}

test_that("what the command line makes of the options is what R's verbs give", {
  folder <- withr::local_tempdir()
  run <- function(...) {
    ran <- command_line(..., "--quiet", "--format", "csv", dir = folder)
    if (ran$status != 0) stop(paste(ran$err, collapse = "\n"))
    data.table::fread(text = ran$out, data.table = FALSE)
  }
  records <- inns()
  monthly <- roll_up(records, "month")
  islands <- data.frame(
    inn = c("Wherry", "Lantern", "Anchor", "Hearth"),
    side = c("east", "west", "east", "west")
  )
  data.table::fwrite(islands, file.path(folder, "sides.csv"))
  write_index(seasonal_index(monthly), file.path(folder, "index.json"))

  residents <- read_records(
    demo_file("inns.csv"), "month", c(guest_nights = "flow"), "inn"
  )
  residents <- add_attributes(
    residents, demo_file("islands.csv"), "island", c(residents = "level")
  )
  per_head <- add_measures(residents, per_head = guest_nights / residents)
  cases <- list(
    list(
      c(
        "growth", "--attributes", demo_file("islands.csv"), "--key", "island",
        "--attribute-measure", "residents:level", "--add-measure",
        "per_head = guest_nights / residents"
      ),
      add_growth(roll_up(per_head, "month"))
    ),
    list(c("periods", "--wide", "series"), widen(monthly, "series")),
    list(
      c("periods", "--wide", "periods", "--wide-partial"),
      widen(monthly, partial = TRUE)
    ),
    list(c("periods", "--gaps"), gaps(monthly)),
    list(
      c("periods", "--leaders", "2030-07", "--leaders-count", "2"),
      rank_series(monthly, "2030-07", 2)
    ),
    list(c("growth", "--from", "2030", "--to", "2031-06", "--over", "1"),
         add_growth(roll_up(keep_dates(records, "2030", "2031-06"), "month"))),
    list(
      c(
        "growth", "--lagged", "1", "--lagged", "-1 year", "--running-total",
        "year", "--rebased", "50", "--at", "2029-03", "--share", "none"
      ),
      add_share(add_rebased(
        add_running_total(add_lagged(add_lagged(monthly, 1), "-1 year")), 50,
        "2029-03"
      ))
    ),
    list(
      c("growth", "--bands", "-5,0,5", "--count-bands"),
      count_bands(add_bands(add_growth(monthly), c(-5, 0, 5)))
    ),
    list(
      c(
        "growth", "--bands", "0.5", "--bands-scale", "quantile", "--band-names",
        "low,high", "--count-bands"
      ),
      count_bands(add_bands(
        add_growth(monthly), 0.5, c("low", "high"), scale = "quantile"
      ))
    ),
    list(c("growth", "--rank", "3", "--order", "falls", "--per-series"),
         rank_changes(monthly, 3, "falls", per_series = TRUE)),
    list(
      c(
        "growth", "--attributes", "sides.csv", "--key", "inn", "--by",
        "side", "--over", "1 year"
      ),
      add_growth(
        roll_up(
          add_attributes(records, islands, "inn"), "month", by = "side"
        ),
        "1 year"
      )
    ),
    list(c("growth", "--add-measure", "double = guest_nights * 2"),
         add_growth(roll_up(
           add_measures(records, double = guest_nights * 2), "month"
         ))),
    list(
      c("growth", "--rename", "nights=guest_nights"),
      add_growth(roll_up(
        rename_measures(records, nights = "guest_nights"), "month"
      ))
    ),
    list(c("moving", "--weights", "1,2,1", "--align", "centred"),
         add_moving(monthly, weights = c(1, 2, 1), align = "centred")),
    list(c("moving", "--alpha", "0.3"), add_smoothed(monthly, alpha = 0.3)),
    list(
      c("season", "--project", "6", "--tests", "--confidence", "0.8"),
      summary(project(monthly, 6, confidence = 0.8))
    ),
    list(
      c("season", "--normalise", "no"),
      seasonal_index(monthly, normalise = FALSE)
    ),
    list(c("season", "--trend", "--confidence", "0.8"),
         trend_line(
           deseasonalise(monthly, seasonal_index(monthly)), confidence = 0.8
         )),
    list(c("season", "--put-back", "--index", "index.json"),
         reseasonalise(monthly, seasonal_index(monthly), of = "value")),
    list(
      c(
        "flags", "--anomaly", "month", "--standardised", "--running",
        "--reference", "2028,2030"
      ),
      add_anomaly(
        monthly, "month", TRUE, running = TRUE, reference = c("2028", "2030")
      )
    ),
    list(c("flags", "--turning", "3"), turning_points(monthly, 3)),
    list(
      c("lags", "--cross", "Lantern,Hearth", "--on", "values", "--lags", "3"),
      suppressWarnings(cross_correlation(
        monthly, "Lantern", "Hearth", 3, on = "values"
      ))
    ),
    list(
      c("lags", "--partials", "no"), autocorrelation(
        monthly, partial_coefficients = FALSE
      )
    )
  )
  for (case in cases) {
    asked <- case[[1]]
    given <- suppressWarnings(run(asked[[1]], nights_file(), asked[-1]))
    expect_same_table(given, case[[2]], paste(asked, collapse = " "))
  }
})

test_that("a result without a row is a sentence and no table, whatever it is", {
  folder <- withr::local_tempdir()
  for (asked in list(
    c("flags", "--beyond", "sd:30", "--episodes"),
    c("flags", "--beyond", "sd:30", "--flagged"),
    c("flags", "--turning", "300"),
    c("periods", "--gaps", "--fill", "linear", "--fill-leading")
  )) {
    label <- paste(asked, collapse = " ")
    ran <- command_line(asked[[1]], nights_file(), asked[-1], dir = folder)
    expect_identical(ran$status, 0L, label = label)
    expect_identical(ran$out, character(), label = label)
    expect_gt(length(ran$err), 3, label = label)
  }
  monthly <- roll_up(inns(), "month")
  index <- seasonal_index(monthly)
  results <- list(
    index, summary(index), summary(index, type = "worksheet"),
    cycle_profile(monthly, "month"), cycle_grid(monthly, "year", "month"),
    autocorrelation(monthly), summary(autocorrelation(monthly)),
    cross_correlation(monthly, "Lantern", "Hearth"), suggest_cycle(monthly),
    flag_periods(monthly), turning_points(monthly, 3), gaps(monthly),
    rank_changes(monthly), rank_series(monthly), widen(monthly),
    trend_line(deseasonalise(monthly, index)), summary(project(monthly, 3)),
    count_bands(add_bands(add_growth(monthly), 0))
  )
  for (result in results) {
    none <- result[0, ]
    expect_s3_class(none, class(result), exact = TRUE)
    printed <- utils::capture.output(print(none))
    expect_gt(length(printed), 0, label = class(result)[[1]])
    header <- paste0("^", names(none)[[1]], "( |$)")
    expect_false(any(grepl(header, printed)), label = class(result)[[1]])
  }
})

test_that("a basket, returns, hours and weekdays come from the command line too", {
  folder <- withr::local_tempdir()
  auction <- c(
    demo_file("landings.csv"), "--when", "date", "--series", "species",
    "--measure", "price:level", "--duplicates", "keep", "--every", "week",
    "--quiet", "--format", "csv"
  )
  prices <- roll_up(
    read_records(
      demo_file("landings.csv"), "date", c(price = "level"), "species",
      duplicates = "keep"
    ),
    "week"
  )
  run <- function(...) {
    data.table::fread(
      text = command_line(..., dir = folder)$out, data.table = FALSE
    )
  }
  expect_same_table(
    run("growth", auction, "--basket", "equal", "--returns", "log"),
    add_returns(basket(prices), "log"), "basket"
  )
  boats <- c(
    demo_file("crossings.csv"), "--when", "time", "--zone", "WET", "--measure",
    "market:flow", "--every", "month", "--quiet", "--format", "csv"
  )
  kept <- keep_dates(
    read_records(
      demo_file("crossings.csv"), "time", c(market = "flow"), zone = "WET"
    ),
    weekdays = c("Saturday", "Sunday"), hours = 6:9
  )
  off <- demo_file("holidays.ics")
  open <- keep_dates(
    read_records(
      demo_file("crossings.csv"), "time", c(market = "flow"), zone = "WET"
    ),
    from = "2031-05", to = "2031-06", workdays = TRUE,
    holidays = read_holidays(off)
  )
  expect_same_table(
    run(
      "periods", replace(boats, boats == "month", "day"), "--from", "2031-05",
      "--to", "2031-06", "--keep-workdays", "yes", "--holidays", off
    ),
    roll_up(open, calendar("day", holidays = read_holidays(off))), "workdays"
  )
  expect_same_table(
    run("periods", boats, "--weekdays", "Saturday,Sunday", "--hours", "6:9"),
    roll_up(kept, "month"), "hours"
  )
})

test_that("options that nothing uses are refused, and what is half said is asked for", {
  folder <- withr::local_tempdir()
  refused <- function(..., says) {
    ran <- command_line(..., dir = folder)
    expect_identical(
      ran$status, 2L, label = paste(c(...)[-(1:8)], collapse = " ")
    )
    expect_match(paste(ran$err, collapse = " "), says, fixed = TRUE)
  }
  refused(
    "periods", nights_file(), "--wide-partial", says = "`--wide` is not"
  )
  refused(
    "periods", nights_file(), "--gaps", "--over", "1",
    says = "`--gaps` does not use it"
  )
  refused("periods", nights_file(), "--fill-leading", says = "--fill")
  refused(
    "growth", nights_file(), "--at", "2030", says = "`--rebased` is not"
  )
  refused(
    "growth", nights_file(), "--lagged", "1", "--as", "log",
    says = "`--over` is not"
  )
  refused(
    "growth", nights_file(), "--rank", "3", "--over", "1",
    says = "--rank lists movements"
  )
  refused("growth", nights_file(), "--count-bands", says = "--bands")
  refused(
    "growth", nights_file(), "--key", "island", says = "--attributes FILE"
  )
  refused(
    "growth", nights_file(), "--add-measure", "x = guest_nights^2",
    says = "--add-measure"
  )
  refused(
    "growth", nights_file(), "--add-measure", "x = system('ls')",
    says = "--add-measure"
  )
  refused("growth", nights_file(), "--rename", "x=none", says = "--rename")
  refused(
    "growth", nights_file(), "--chunked", "--from", "2030", says = "--chunked"
  )
  refused("season", nights_file(), "--put-back", says = "--index")
  refused(
    "season", nights_file(), "--profile", "month", "--normalise", "no",
    says = "does not use it"
  )
  refused(
    "flags", nights_file(), "--anomaly", "month", "--beyond", "sd:2",
    says = "does not use it"
  )
  refused("flags", nights_file(), "--running", says = "`--anomaly` is not")
  refused(
    "lags", nights_file(), "--on", "values", says = "`--cross` is not"
  )
  # One option that gives two arguments is named for either.
  refused(
    "season", nights_file(), "--grid", "year,zzz",
    says = "`--grid` is \"zzz\""
  )
  refused(
    "lags", nights_file(), "--cross", "Lantern,Nowhere", says = "--cross"
  )
})

test_that("measures are renamed in records and in periods, with all that is known of them", {
  records <- crossings()
  after <- rename_measures(records, boarded = "market")
  expect_s3_class(after, "backfill_records")
  expect_identical(
    columns(roll_up(after, "month"))[c("value", "standing", "n")],
    columns(roll_up(records, "month"))[c("value", "standing", "n")]
  )
  expect_setequal(
    unique(roll_up(after, "month")$measure), c("boarded", "tide")
  )

  periods <- rename_measures(
    add_growth(roll_up(records, "month")), boarded = "market", left = "tide"
  )
  expect_s3_class(periods, "backfill_periods")
  expect_identical(
    periods$growth_1_month, add_growth(roll_up(records, "month"))$growth_1_month
  )
  expect_identical(
    columns(roll_up(periods, "quarter"))$value,
    columns(roll_up(records, "quarter"))$value
  )
  expect_output(print(periods), "boarded")
  missing <- as_records(
    data.frame(when = as.Date("2031-01-01") + 0:4, market = c(1, NA, 3, 4, 5)),
    "when", c(market = "flow")
  )
  expect_output(
    print(account(rename_measures(missing, boarded = "market"))), "boarded"
  )
  season <- add_growth(roll_up(inns(), "month"))
  ahead <- rename_measures(project(season, 3), nights = "guest_nights")
  expect_s3_class(ahead, class(project(season, 3))[[1]])
  expect_output(print(ahead), "nights")

  meters <- roll_up(water_tanks(), "month")
  falls <- attr(rename_measures(meters, current = "reading"), "backfill")$falls
  expect_true(all(falls$measure == "current"))
  # A ratio keeps its parts.
  data <- data.frame(
    when = as.Date("2031-01-01") + 0:40, nights = 1:41, beds = 2
  )
  ratio <- as_records(
    data, "when",
    list(
      nights = "flow", beds = "flow",
      use = measure("ratio", of = "nights", per = "beds")
    )
  )
  named <- roll_up(rename_measures(ratio, stays = "nights"), "month")
  expect_identical(named$value, roll_up(ratio, "month")$value)

  # As they are read, it is the same.
  expect_identical(
    columns(read_records(
      demo_file("crossings.csv"), when = "time",
      measures = c(market = "flow", tide = "flow"), zone = "WET",
      rename = c(boarded = "market")
    )),
    columns(after)
  )
  expect_named(
    as_records(
      data.frame(when = as.Date("2031-01-01"), market = 1), "when",
      c(market = "flow"), rename = c(boarded = "market")
    ),
    c("when", "boarded")
  )
  expect_error(
    read_records(
      demo_file("crossings.csv"), "time", c(market = "flow"),
      rename = c(boarded = "market"), chunked = TRUE
    ),
    "`rename` is given", class = "backfill_error_argument"
  )

  expect_error(
    rename_measures(records, boarded = "east"), "no measure \"east\"",
    class = "backfill_error_argument"
  )
  expect_error(
    rename_measures(records, tide = "market"), "stand for two",
    class = "backfill_error_column"
  )
  expect_error(
    rename_measures(records, "market"), "new names",
    class = "backfill_error_argument"
  )
})

one_month <- function() {
  day <- as.Date("2031-01-01") + 0:30
  roll_up(as_records(data.frame(day, v = 1:31), "day", c(v = "flow")), "day")
}

test_that("a call without an argument that it needs is told which, and what it is", {
  m <- one_month()
  missed <- 0
  for (name in setdiff(getNamespaceExports("backfill"), "autoplot")) {
    verb <- getExportedValue("backfill", name)
    defaults <- formals(verb)
    none <- vapply(defaults, identical, NA, rlang::missing_arg())
    needed <- setdiff(names(defaults)[none], "...")
    for (k in seq_along(needed)) {
      given <- stats::setNames(rep(list(m), k - 1), needed[seq_len(k - 1)])
      cnd <- tryCatch(
        eval(as.call(c(as.name(name), given))), error = identity
      )
      expect_s3_class(cnd, "backfill_error")
      if (k == 1) {
        expect_identical(cnd$argument, needed[[1]], label = name)
        expect_match(conditionMessage(cnd), "is missing")
      }
      missed <- missed + 1
    }
  }
  expect_gt(missed, 100)
  expect_error(backfill::turning_points(m), "`span` is missing.*\n")
  within <- function(table, ...) add_growth(table, ...)
  expect_error(within(), "`x` is missing in add_growth\\(\\)")
})

test_that("a value that an argument cannot have is told by its name, however the verb is called", {
  m <- one_month()
  tried <- 0
  for (name in names(backfill:::verbs())) {
    arguments <- backfill:::verbs()[[name]]$arguments
    verb <- getExportedValue("backfill", name)
    first <- names(formals(verb))[[1]]
    needed <- Filter(
      function(one) identical(one, rlang::missing_arg()), formals(verb)
    )
    for (argument in names(arguments)) {
      if (is.null(arguments[[argument]]$type$check)) next
      others <- setdiff(names(needed), c(argument, first, "..."))
      given <- c(
        list(m), stats::setNames(lapply(others, function(other) {
          arguments[[other]]$type$choices[[1]] %||% 1
        }), others),
        stats::setNames(list("bad/!x"), argument)
      )
      for (call in list(as.name(name), verb)) {
        cnd <- tryCatch(eval(as.call(c(call, given))), error = identity)
        expect_identical(
          list(cnd$argument, inherits(cnd, "backfill_error_argument")),
          list(argument, TRUE), label = paste(name, argument)
        )
      }
      tried <- tried + 1
    }
  }
  expect_gt(tried, 60)
  choices <- "\"enum\":\\s*\\[\\s*\"percent\",\\s*\"ratio\""
  expect_true(grepl(choices, study_schema()))
  mapped <- tryCatch(lapply(list(m), add_growth, as = "rati"), error = identity)
  expect_match(conditionMessage(mapped), "Did you mean \"ratio\"")
})

test_that("what was given is told as what it is", {
  m <- one_month()
  expect_error(
    correlations(latest(m)), "`x` is a table of another kind \\(latest"
  )
  expect_error(
    add_growth(data.frame(a = 1)), "`x` is a data frame of 1 column,"
  )
  expect_error(add_growth(m, of = 1:3), "`of` is 1, 2 and 3, which")
  expect_error(add_growth(m, "soon"), "`over` is \"soon\", which")
  expect_error(roll_up(m, list(1)), "`every` is a list of length 1, which")
  expect_error(
    add_moving(m, c("a", "b", "c", "d", "e", "f")),
    "`window` is \"a\", \"b\", \"c\", \"d\" and 2 more"
  )
})

test_that("an error is told of the function that was called, however deep it comes from", {
  x <- roll_up(inns(), "month")
  told_of <- function(code) {
    as.character(conditionCall(tryCatch(code, error = identity))[[1]])
  }
  expect_identical(told_of(add_growth(x, over = 3.5)), "add_growth")
  expect_identical(told_of(backfill::add_growth(x, 3.5))[[3]], "add_growth")
  # The table is made within the call, when it is first looked at.
  expect_identical(told_of(add_growth(roll_up(inns(), "moth"))), "roll_up")
  expect_identical(told_of(lapply(list(x), add_growth, over = 3.5)), "FUN")
  expect_identical(told_of(autoplot(x, type = "pie")), "autoplot")
})
