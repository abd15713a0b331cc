kilos_file <- function(env = parent.frame()) {
  text_file(
    "date,kilos", sprintf("%s,%d", as.Date("2031-01-01") + 0:120, 1:121),
    "2031-05-02,lots", env = env
  )
}

test_that("backfill demo goes the whole way, and its report has every part", {
  skip_if_not_installed("yaml")
  skip_if_not_installed("htmltools")
  skip_if_not_installed("svglite")
  withr::local_envvar(R_USER_CACHE_DIR = withr::local_tempdir())
  folder <- withr::local_tempdir()
  ran <- backfill_cli("demo", "--out", file.path(folder, "new", "demo"))
  expect_identical(ran$status, 0L)
  expect_match(ran$err, "25,572 rows read, 25,565 used", all = FALSE)
  expect_match(ran$out, "^flags +flag_periods +184 +FALSE", all = FALSE)
  named <- regmatches(ran$err, regexpr("/.*new/demo/[a-z.]+$", ran$err))
  expect_setequal(basename(named), c("report.html", "findings.txt"))
  report <- named[basename(named) == "report.html"]
  expect_lt(file.size(report), 6e6)
  html <- xml2::read_html(report)
  # Every section that the study asks for says something and shows its table.
  study <- yaml::read_yaml(demo_file("tarn-study.yaml"))
  for (name in study$report$sections) {
    at <- sprintf("//section[@id='%s']", name)
    expect_length(xml2::xml_find_all(html, at), 1)
    expect_gt(
      length(xml2::xml_find_all(html, paste0(at, "//li"))), 0, label = name
    )
    expect_length(xml2::xml_find_all(html, paste0(at, "//table")), 1)
  }
  expect_length(
    xml2::xml_find_all(html, "//figure/*[name()='svg']"),
    length(study$report$sections)
  )
  # The line it gives to copy does what the R functions do.
  direct <- withr::local_tempfile(fileext = ".csv")
  all <- read_records(
    demo_file("crossings.csv"), when = "time", zone = "WET",
    measures = c(market = "flow", tide = "flow")
  )
  monthly <- add_growth(
    add_growth(roll_up(all, "month", enough = 0.95)), over = "1 year"
  )
  write_periods(add_moving(monthly, 12), direct)
  line <- paste(
    sub(
      " \\\\$", "", grep("^  backfill periods|^    --", ran$err, value = TRUE)
    ),
    collapse = " "
  )
  args <- scan(text = line, what = "", quiet = TRUE)
  expect_identical(backfill_cli(args[-1], dir = folder)$status, 0L)
  expect_identical(
    readLines(file.path(folder, "monthly.csv")), readLines(direct)
  )
})

test_that("backfill periods rolls up a user's own file: a table, CSV, JSON, files", {
  file <- kilos_file()
  args <- c(
    "periods", file, "--when", "date", "--measure", "kilos:flow:kg",
    "--every", "month"
  )
  ran <- backfill_cli(args)
  expect_identical(ran$status, 0L)
  expect_match(
    ran$err, "122 rows read, 121 used, from 2031-01-01 to", all = FALSE
  )
  expect_match(
    ran$out, "^kilos +2031-02 +1,274 +complete +28 +100.0% +[+]156.9%",
    all = FALSE
  )

  csv <- backfill_cli(args, "--format", "csv", "--quiet")
  expect_identical(csv$err, character())
  table <- utils::read.csv(text = csv$out)
  expect_identical(table$value, c(496L, 1274L, 2325L, 3165L, 121L))
  expect_identical(table$growth_1_month[[2]], 100 * (1274 - 496) / 496)

  json <- backfill_cli(args, "--format", "json", "--quiet")
  expect_identical(
    jsonlite::fromJSON(json$out)$growth_1_month, table$growth_1_month
  )

  folder <- withr::local_tempdir()
  made <- backfill_cli(
    args, "--window", "3", "--align", "centred", "--over", "none", "--out",
    "t.csv", "--figure", "t.svg", "--aside", "a.csv", dir = folder
  )
  expect_identical(made$status, 0L)
  expect_identical(made$out, character())
  expect_setequal(
    list.files(folder, all.files = TRUE, no.. = TRUE),
    c("t.csv", "t.csv-metadata.json", "t.svg", "a.csv")
  )
  expect_s3_class(
    read_periods(file.path(folder, "t.csv")), "backfill_periods"
  )
  expect_identical(readLines(file.path(folder, "a.csv")),
                   c(
                     "source,line,column,text,reason",
                     sprintf(
                       "%s,123,kilos,lots,not a number", normalizePath(file)
                     )
                   ))
  expect_match(made$err, "^ +123 +kilos +lots +not a number", all = FALSE)
  expect_identical(
    utils::read.csv(file.path(folder, "t.csv"))$moving_mean[[2]], 1365
  )
})

test_that("bad usage and bad input exit with 2, name the place, and leave nothing behind", {
  file <- kilos_file()
  folder <- withr::local_tempdir()
  fails <- function(pattern, ..., run = command_line) {
    ran <- run(..., dir = folder)
    expect_identical(ran$status, 2L, label = pattern)
    expect_identical(ran$out, character(), label = pattern)
    expect_match(paste(ran$err, collapse = "\n"), pattern)
    expect_identical(
      list.files(folder, all.files = TRUE, no.. = TRUE), character(),
      label = pattern
    )
  }
  good <- c(
    "periods", file, "--when", "date", "--measure", "kilos:flow", "--out",
    "x.csv", "--figure", "x.png"
  )
  with <- function(option, value) {
    replace(
      good, match(option, good) + 1, value
    )
  }
  fails("No command", character(), run = backfill_cli)
  fails("no command \"period\"", "period")
  fails(
    "no option --mesure.*--measure", "periods", file, "--mesure",
    "kilos:flow", run = backfill_cli
  )
  fails("requires an argument", "periods", file, "--when")
  fails("given more than once", good, "--zone", "UTC", "--zone", "WET")
  fails("Column \"kilos\" has two roles", good, "--when", "kilos")
  fails(
    "`--when` is not given", "periods", file, "--measure", "kilos:flow",
    "--chunked"
  )
  fails("An input file is expected; there is none", "periods")
  fails("no file nowhere.csv", replace(good, 2, "nowhere.csv"))
  fails("no column \"day\", which `--when` names", with("--when", "day"))
  fails("kind of a measure is \"sum\"", with("--measure", "kilos:sum"))
  fails("names no kind", with("--measure", "kilos"))
  fails("`--every` is \"fortnight\"", good, "--every", "fortnight")
  fails("`--zone` is \"Nowhere\"", good, "--zone", "Nowhere")
  fails("`--enough` is \"most\"", good, "--enough", "most")
  fails("no folder none", with("--out", "none/x.csv"), run = backfill_cli)
  fails("not a name for a figure", with("--figure", "x.bmp"))
  fails("not overwritten", with("--out", file))
  fails("x.csv is named for two results", good, "--aside", "./x.csv")
  fails("Two orders fit.*`--date-order` is \"dmy\" or \"mdy\"",
        replace(
          good, 2,
          text_file(
            "date,kilos", "1/4/2031,5", "2/4/2031,6", name = "dates.csv"
          )
        ))
  odd_row <- text_file(
    "date,kilos", "2031-04-01,5", "soon,6", "2031-04-03,7", name = "rows.csv"
  )
  fails(
    "Line 3 of rows.csv cannot be used", replace(good, 2, odd_row),
    "--strict", run = backfill_cli
  )
})

test_that("a reader that stops reading is no fault", {
  script <- system.file("exec", "backfill", package = "backfill")
  options <- paste(
    "--when time --zone WET --measure market:flow --every day --format csv"
  )
  command <- sprintf(
    "'%s' '%s' periods '%s' %s | head -1", file.path(R.home("bin"), "Rscript"),
    script, demo_file("crossings.csv"), options
  )
  ran <- processx::run(
    "sh", c("-c", command),
    env = c("current", R_LIBS = paste(.libPaths(), collapse = ":"))
  )
  expect_match(ran$stdout, "^measure,period,value")
  expect_no_match(ran$stderr, "fault")
})

test_that("several series and a level, by the week, into JSON and PDF, with one series lifted", {
  day <- as.Date("2031-01-06") + 0:20
  rows <- lapply(
    1:9, function(port) sprintf("%s,%s,%d", day, letters[[port]], port * 1:21)
  )
  file <- text_file("day,port,price", unlist(rows))
  folder <- withr::local_tempdir()
  ran <- backfill_cli(
    "periods", file, "--when=day", "--series=port",
    "--measure=price:level:shillings", "--every", "P1W", "--over", "2",
    "--window=2", "--highlight", "c", "--out", "w.json", "--figure", "w.pdf",
    dir = folder
  )
  expect_identical(ran$status, 0L)
  weeks <- jsonlite::fromJSON(file.path(folder, "w.json"))
  expect_identical(
    names(weeks),
    c(
      "port", "measure", "period", "value", "standing", "n", "coverage",
      "growth_2_weeks", "moving_mean"
    )
  )
  c_port <- weeks[weeks$port == "c", ]
  expect_equal(c_port$value, 3 * c(4, 11, 18))
  expect_equal(c_port$growth_2_weeks, c(NA, NA, 350))
  expect_equal(c_port$moving_mean, 3 * c(NA, 7.5, 14.5))
  expect_identical(
    rawToChar(readBin(file.path(folder, "w.pdf"), "raw", 5)), "%PDF-"
  )
  expect_match(paste(ran$err, collapse = " "),
               paste(
                 "mean of value over 2 weeks .*[^:]*: highest i +130.5",
                 "+and lowest a +14.5"
               ))
  unknown <- backfill_cli(
    "periods", file, "--when=day", "--series=port", "--measure=price:level",
    "--every=week", "--highlight", "z", "--out", "z.csv", "--figure", "z.png",
    dir = folder
  )
  expect_identical(unknown$status, 2L)
  expect_setequal(list.files(folder), c("w.json", "w.pdf"))
})

test_that("one row is a table of one period, and a file of a header only is refused", {
  one <- backfill_cli(
    "periods", text_file("date,kilos", "2031-04-09,5"), "--when", "date",
    "--measure", "kilos:flow", "--figure", "one.png",
    dir = withr::local_tempdir()
  )
  expect_identical(one$status, 0L)
  expect_match(one$err, "1 month, 2031-04, of kilos", all = FALSE)
  expect_match(one$out[[2]], "^kilos +2031-04 +5 +partial +1 +NA")
  none <- backfill_cli(
    "periods", text_file("date,kilos"), "--when", "date", "--measure",
    "kilos:flow"
  )
  expect_identical(none$status, 2L)
  expect_match(none$err, "has a header but no rows", all = FALSE)
})

test_that("the calendar, statistics, sub-series and gaps are options that do what the arguments do", {
  auction <- demo_file("landings.csv")
  out <- withr::local_tempfile(fileext = ".csv")
  direct <- withr::local_tempfile(fileext = ".csv")
  read <- c(
    "periods", auction, "--when", "date", "--series", "species", "--measure",
    "price:level", "--measure", "kilos:flow", "--duplicates", "keep", "--over",
    "none", "--window", "none", "--out", out
  )
  ran <- backfill_cli(
    read, "--every", "2 weeks", "--anchor", "2030-01-06", "--week-start",
    "Sunday", "--by", "none", "--pool", "price:kilos", "--holidays",
    demo_file("holidays.ics"), "--workdays",
    c("Mon", "--workdays", "Tue", "--workdays", "Wed", "--workdays", "Thu",
      "--workdays", "Fri", "--workdays", "Sat"),
    "--partial", "drop", "--per-day"
  )
  expect_identical(ran$status, 0L)
  days <- calendar(
    "2 weeks", week_start = "Sunday", anchor = "2030-01-06", workdays = 1:6,
    holidays = read_holidays(demo_file("holidays.ics"))
  )
  records <- read_records(
    auction, when = "date", series = "species", duplicates = "keep",
    measures = c(price = "level", kilos = "flow")
  )
  rolled <- roll_up(
    records, days, by = character(), pool = c(price = "kilos"),
    partial = "drop"
  )
  write_periods(add_per_day(rolled, workdays = TRUE), direct)
  expect_identical(readLines(out), readLines(direct))

  ran <- backfill_cli(
    read, "--use", "price:first", "--use", "price:90%", "--use", "kilos:count",
    "--absent", "zero"
  )
  rolled <- roll_up(
    records, "month", use = list(price = c("first", "90%"), kilos = "count"),
    absent = "zero"
  )
  write_periods(rolled, direct)
  expect_identical(readLines(out), readLines(direct))

  tanks <- c(
    "periods", demo_file("water-tanks.csv"), "--layout", "dates across",
    "--series", "village", "--series", "tank", "--measure", "reading:counter",
    "--over", "none", "--window", "none", "--out", out
  )
  ran <- backfill_cli(
    tanks, "--falls", "restart", "--falls", "reading:spread", "--rollover",
    "1e6"
  )
  expect_identical(ran$status, 2L)
  ran <- backfill_cli(
    tanks, "--falls", "restart", "--falls", "spread", "--rollover",
    "reading:1e6"
  )
  expect_match(ran$err, "falls 1 time, which is spread back", all = FALSE)
  write_periods(roll_up(
    read_records(
      demo_file("water-tanks.csv"), series = c("village", "tank"),
      layout = "dates across", measures = c(reading = "counter")
    ),
    "month", falls = c("restart", "spread"), rollover = 1e6
  ), direct)
  expect_identical(readLines(out), readLines(direct))

  nights <- c(
    "periods", demo_file("inns.csv"), "--when", "month", "--series",
    "inn", "--measure", "guest_nights:level", "--over", "none", "--window",
    "none"
  )
  filled <- backfill_cli(
    nights, "--use", "sum", "--fill", "linear", "--longest", "1"
  )
  expect_identical(filled$status, 0L)
  expect_match(filled$err, "^Warning: guest_nights is a level", all = FALSE)
  expect_match(
    filled$out, "^Hearth +guest_nights +2030-05 .* imputed", all = FALSE
  )
  expect_match(filled$err, "the run is too long \\(6\\)", all = FALSE)

  # An option, its value, and what the message must name.
  bad <- list(
    c("--use", "price:first --use last", "Write it as price:last"), c(
      "--absent", "price:zero", "`--absent` of price"
    ),
    c("--holidays", "none.ics", "no file")
  )
  unlink(out)
  for (one in bad) {
    ran <- backfill_cli(read, one[[1]], strsplit(one[[2]], " ")[[1]])
    expect_identical(ran$status, 2L, label = one[[2]])
    expect_match(paste(ran$err, collapse = " "), one[[3]], fixed = TRUE)
    expect_false(file.exists(out))
  }
})

test_that("hours are written with their offset, and drawn on an axis of times", {
  args <- c(
    "periods", demo_file("crossings.csv"), "--when", "time", "--zone", "WET",
    "--measure", "market:flow", "--every", "hour", "--over", "none", "--quiet"
  )
  csv <- backfill_cli(args, "--format", "csv")
  expect_match(csv$out, "^market,2029-10-28T01:00:00[+]01:00,", all = FALSE)
  expect_match(csv$out, "^market,2029-10-28T01:00:00[+]00:00,", all = FALSE)
  expect_identical(
    nrow(utils::read.csv(text = csv$out)),
    as.integer(1 + diff(as.numeric(as.POSIXct(
      c("2029-01-09 06:00", "2031-12-17 21:00"), tz = "UTC"
    ))) / 3600)
  )
  figure <- withr::local_tempfile(fileext = ".png")
  expect_identical(
    backfill_cli(args, "--figure", figure, "--chunked")$status, 0L
  )
  expect_gt(file.size(figure), 1000)
})

test_that("growth and moving have commands that do what the verbs do", {
  folder <- withr::local_tempdir()
  nights <- c(
    demo_file("inns.csv"), "--when", "month", "--series", "inn",
    "--measure", "guest_nights:flow"
  )
  monthly <- roll_up(inns(), "month")
  same <- function(out, x) {
    direct <- withr::local_tempfile(fileext = ".csv")
    write_periods(x, direct)
    expect_identical(out, readLines(direct))
  }
  grown <- backfill_cli(
    "growth", nights, "--over", "1 year", "--over", "1", "--as", "log",
    "--bands", "-0.05, 0", "--format", "csv", "--figure", "g.png", "--size",
    "640x400", "--events", demo_file("events.csv"), dir = folder
  )
  expect_identical(grown$status, 0L)
  same(
    grown$out,
    add_bands(
      add_growth(
        monthly, c("1 year", "1"), "log",
        name = c("log_growth_1_year", "log_growth_1_month")
      ),
      c(-0.05, 0), of = "log_growth_1_year"
    )
  )
  expect_identical(list.files(folder), "g.png")
  expect_match(grown$err, "table does not reach back so far", all = FALSE)
  ranked <- backfill_cli(
    "growth", nights, "--rank", "2", "--format", "json", "--quiet"
  )
  expect_identical(
    jsonlite::fromJSON(ranked$out)$percent, rank_changes(monthly, 2)$percent
  )
  within <- backfill_cli(
    "growth", nights, "--rank", "1", "--rank-within", "year", "--format",
    "json", "--quiet"
  )
  expect_identical(
    jsonlite::fromJSON(within$out)$within, c("2028", "2029", "2030", "2031")
  )
  moved <- backfill_cli(
    "moving", nights, "--window", "3", "--window", "1 year", "--stat", "90%",
    "--align", "centred", "--half-life", "2", "--format", "csv", "--quiet"
  )
  expected <- add_moving(
    monthly, 3, "90%", "centred", name = "moving_90_percent_3"
  )
  expected <- add_moving(
    expected, "1 year", "90%", "centred", name = "moving_90_percent_1_year"
  )
  same(moved$out, add_smoothed(expected, half_life = 2))
  weighed <- backfill_cli("moving", nights, "--weights", "spencer 16")
  expect_identical(weighed$status, 2L)
  expect_match(weighed$err, "`--weights` is \"spencer 16\"", all = FALSE)
})

test_that("season gives what the calls in R give, one result at a time", {
  dir <- withr::local_tempdir()
  nights <- c(
    "season", demo_file("inns.csv"), "--when", "month", "--series",
    "inn", "--measure", "guest_nights:flow", "--quiet"
  )
  direct <- file.path(dir, "direct.csv")
  monthly <- roll_up(inns(), "month")
  index <- seasonal_index(monthly)
  results <- list(
    list(character(), index), list("--tests", summary(index)), list(
      "--worksheet", summary(index, type = "worksheet")
    ),
    list("--adjust", deseasonalise(monthly, index)), list(
      "--trend", trend_line(deseasonalise(monthly, index))
    ),
    list(
      c("--project", "1 year", "--base", "line"),
      project(monthly, 12, base = "line")
    ),
    list(
      c("--project", "6", "--worksheet"),
      summary(project(monthly, 6), type = "worksheet")
    ),
    list(
      c("--profile", "month", "--stat", "median"),
      cycle_profile(inns(), "month", stat = "median")
    ),
    list(
      c("--profile", "quarter", "--every", "quarter"),
      cycle_profile(roll_up(monthly, "quarter"), "quarter")
    ),
    list(c("--grid", "year,month"), cycle_grid(inns(), "year", "month"))
  )
  for (one in results) {
    write_periods(one[[2]], direct)
    ran <- command_line(nights, one[[1]], "--format", "csv", dir = dir)
    expect_identical(ran$status, 0L)
    expect_identical(
      ran$out, readLines(direct),
      label = paste(c("season", one[[1]]), collapse = " ")
    )
  }
  # The index kept, and used again; a workbook with the steps in their order; a
  # figure.
  ran <- command_line(
    nights, "--save", "index.json", "--figure", "index.png", dir = dir
  )
  expect_true(all(file.exists(file.path(dir, c("index.json", "index.png")))))
  used <- command_line(
    nights, "--adjust", "--index", "index.json", "--format", "csv", dir = dir
  )
  write_periods(deseasonalise(monthly, index), direct)
  expect_identical(used$out, readLines(direct))
  command_line(nights, "--worksheet", "--out", "steps.xlsx", dir = dir)
  expect_named(readxl::read_excel(file.path(dir, "steps.xlsx")),
               c(
                 "inn", "measure", "period", "position", "value",
                 "centred_average", "ratio", "raw_index", "normaliser", "index",
                 "adjusted", "standing"
               ))
  for (
    wrong in list(
      c("--tests", "--trend"), c("--apart", "weekend"), c("--stat", "median"),
      c("--grid", "year"), c("--index", "none.json", "--adjust"),
      c("--base", "line"), c("--every", "year"), c("--cycle", "3 weeks"),
      c("--project", "x"), c("--profile", "moon")
    )
  ) {
    ran <- command_line(nights, wrong, dir = dir)
    expect_identical(ran$status, 2L, label = paste(wrong, collapse = " "))
    expect_identical(ran$out, character())
  }
})

test_that("lags and flags give what the calls in R give; a flag can fail the run", {
  dir <- withr::local_tempdir()
  nights <- c(
    demo_file("inns.csv"), "--when", "month", "--series", "inn",
    "--measure", "guest_nights:flow", "--quiet"
  )
  direct <- file.path(dir, "direct.csv")
  monthly <- roll_up(inns(), "month")
  flags <- flag_periods(
    monthly, "a cycle before", c(percent = 10, sd = 2), beyond_all = TRUE
  )
  asked <- c(
    "flags", nights, "--against", "a cycle before", "--beyond", "percent:10",
    "--beyond", "sd:2", "--beyond-all"
  )
  results <- list(
    list(c("lags", nights, "--lags", "12"), autocorrelation(monthly, 12)),
    list(
      c("lags", nights, "--verdict", "--remainder"),
      summary(autocorrelation(add_remainder(monthly),
                              of = "remainder"))
    ),
    list(
      c("lags", nights, "--cross", "Lantern,Hearth"),
      cross_correlation(monthly, "Lantern", "Hearth")
    ),
    list(c("lags", nights, "--cycles"), suggest_cycle(monthly)),
    list(asked, flags), list(c(asked, "--flagged"), summary(flags)),
    list(c(asked, "--episodes"), summary(flags, type = "episodes")),
    list(
      c(asked, "--since", "2031-10-01"),
      flags[flags$period >= as.Date("2031-10-01"), ]
    )
  )
  for (one in results) {
    write_periods(one[[2]], direct)
    ran <- command_line(one[[1]], "--format", "csv", dir = dir)
    expect_identical(
      ran$out, readLines(direct),
      label = paste(one[[1]][-(2:9)], collapse = " ")
    )
    expect_identical(ran$status, 0L)
  }
  failed <- backfill_cli(
    asked, "--fail-on-flag", "--figure", "flags.png", dir = dir
  )
  expect_identical(failed$status, 3L)
  expect_true(file.exists(file.path(dir, "flags.png")))
  expect_identical(
    command_line(
      asked, "--fail-on-flag", "--since", "2031-10-01", dir = dir
    )$status,
    0L
  )
  for (
    wrong in list(
      c("lags", nights, "--cross", "Lantern"),
      c("lags", nights, "--lags", "99"),
      c("lags", nights, "--cycles", "--verdict"),
      c("flags", nights, "--beyond", "sd"),
      c("flags", nights, "--beyond", "moons:3"),
      c("flags", nights, "--against", "moon"),
      c("flags", nights, "--since", "soon")
    )
  ) {
    expect_identical(
      command_line(wrong, dir = dir)$status, 2L,
      label = paste(wrong[-(2:9)], collapse = " ")
    )
  }
})

test_that("a bad value is told by the option that it was given to, for every option", {
  nights <- demo_file("inns.csv")
  folder <- withr::local_tempdir()
  whole <- list(
    when = "month", series = "inn", measure = "guest_nights:flow"
  )
  # Whatever text is good for these.
  any_text <- c("source", "missing", "line-number")
  beside <- list(
    base = c("--project", "3"), split = c("--profile", "month"),
    index = "--adjust", stat = c("--profile", "month"),
    longest = c("--fill", "carry"), type = c("--figure", "a.png"),
    size = c("--figure", "a.png"), events = c("--figure", "a.png"),
    highlight = c("--figure", "a.png"), present = c("--window", "3")
  )
  # A trace takes a table that was written, and the records beside it.
  table <- file.path(withr::local_tempdir(), "nights.csv")
  write_periods(roll_up(inns(), "month"), table)
  traced <- c(period = "2031-07", "of-series" = "Anchor", records = nights)
  known <- backfill:::commands()
  # Of those that several commands have in common, each is tried once.
  tried <- character()
  # A study takes other inputs; see test-study.R.
  for (name in setdiff(names(known), c("demo", "study", "report"))) {
    options <- known[[name]]$options
    valued <- names(Filter(function(one) !is.null(one$value), options))
    for (option in setdiff(valued, c(any_text, tried))) {
      tried <- c(tried, option)
      asked <- if (name == "inspect") {
        list()
      } else {
        whole[setdiff(names(whole), option)]
      }
      used <- if (option != "stat" || name == "season") beside[[option]]
      if (option == "type") {
        used <- c("--figure", "a.png")
      }
      input <- if (name == "trace") {
        given <- traced[names(traced) != option]
        c(table, rbind(paste0("--", names(given)), given))
      } else {
        nights
      }
      ran <- command_line(
        name, input,
        if (length(asked) > 0) rbind(paste0("--", names(asked)), unlist(asked)),
        used, paste0("--", option), "bad/!x", "--quiet", dir = folder
      )
      said <- paste(ran$err, collapse = " ")
      expect_identical(ran$status, 2L, label = paste(name, option, said))
      expect_match(
        said, paste0("--", option), fixed = TRUE,
        label = paste(name, option, said)
      )
    }
  }
  expect_length(list.files(folder), 0)
})

test_that("an option that the result does not use is refused", {
  nights <- demo_file("inns.csv")
  refused <- function(...) {
    ran <- command_line(..., dir = tempdir())
    expect_identical(ran$status, 2L, label = paste(c(...), collapse = " "))
    paste(ran$err, collapse = " ")
  }
  read <- c(
    nights, "--when", "month", "--series", "inn", "--measure",
    "guest_nights:flow"
  )
  profile <- c("season", read, "--profile", "month")
  for (
    option in list(
      c("--by", "none"), c("--use", "mean"), c("--fill", "carry"),
      c("--partial", "drop"), c("--form", "additive"), c("--type", "index")
    )
  ) {
    expect_match(refused(profile, option), option[[1]], fixed = TRUE)
  }
  expect_identical(
    command_line(
      profile, "--every", "quarter", "--by", "none", "--quiet", dir = tempdir()
    )$status,
    0L
  )
  expect_match(
    refused("lags", read, "--events", demo_file("events.csv")),
    "no option --events", fixed = TRUE
  )
  expect_match(
    refused(
      "season", read, "--events", demo_file("events.csv"), "--figure", "a.png"
    ),
    "--events"
  )
  expect_match(
    refused("lags", read, "--cycles", "--lags", "3"), "--lags", fixed = TRUE
  )
  expect_match(
    refused("periods", read, "--type", "lines"), "--type", fixed = TRUE
  )
  expect_match(
    refused("periods", read, "--sheet", "1"), "is not a workbook", fixed = TRUE
  )
  expect_match(
    refused("flags", read, "--last", "6", "--cycle", "1 year"),
    "`--last` is given", fixed = TRUE
  )
})

test_that("no result is written over a file that it was made of, and a second write replaces the first", {
  nights <- text_file(
    readLines(demo_file("inns.csv")), name = "nights.csv"
  )
  monthly <- add_bands(
    add_growth(roll_up(
      read_records(
        nights, "month", c(guest_nights = "flow"), series = "inn"
      ),
      "month"
    )),
    c(-5, 5)
  )
  results <- list(
    monthly, gaps(monthly), rank_changes(monthly), rank_series(monthly),
    count_bands(monthly), summary(monthly), seasonal_index(monthly),
    flag_periods(monthly),
    read_records(nights, "month", c(guest_nights = "flow"), series = "inn")
  )
  other <- withr::local_tempfile(fileext = ".csv")
  for (one in results) {
    expect_error(
      write_periods(one, nights), "not overwritten",
      class = "backfill_error_file"
    )
    for (again in 1:2) expect_no_error(write_periods(one, other))
  }
})

test_that("the measures of another file stand beside those of the first, by series and time", {
  folder <- withr::local_tempdir()
  day <- as.Date("2031-04-01") + 0:13
  sold <- data.frame(
    day = rep(day, 2), port = rep(c("Ostrel", "Vannow"), each = 14),
    kilos = 100 + 1:28 %% 5
  )
  boats <- data.frame(
    Date = format(sold$day, "%d.%m.%Y"), port = sold$port, boats = 1:28 %% 4 + 1
  )[-c(3, 20), ]
  data.table::fwrite(sold, file.path(folder, "sold.csv"))
  data.table::fwrite(boats, file.path(folder, "boats.csv"), sep = ";")
  data.table::fwrite(
    data.frame(day = day, wind = 1:14), file.path(folder, "wind.csv")
  )
  ran <- backfill_cli(
    "periods", "sold.csv", "--with", "boats.csv", "--every", "day",
    "--over", "none", "--window", "none", "--format", "csv", "--add-measure",
    "each:level = kilos / boats", "--measure", "boats:level", dir = folder
  )
  expect_identical(ran$status, 0L)
  expect_match(
    ran$err, "2 records have no match in the table of boats", all = FALSE
  )
  expect_match(ran$err, "boats a level", all = FALSE)
  given <- utils::read.csv(text = ran$out)
  each <- given[given$measure == "each", ]
  expect_equal(
    each$value[match(
      paste(boats$port, as.Date(boats$Date, "%d.%m.%Y")),
      paste(each$port, each$period)
    )],
    sold$kilos[-c(3, 20)] / boats$boats
  )
  # A series column that results have a column of bears another name by then.
  names(sold)[[2]] <- names(boats)[[2]] <- "effect"
  data.table::fwrite(sold, file.path(folder, "sold-by.csv"))
  data.table::fwrite(boats, file.path(folder, "boats-by.csv"), sep = ";")
  renamed <- backfill_cli(
    "periods", "sold-by.csv", "--with", "boats-by.csv", "--every", "day",
    "--format", "csv", dir = folder
  )
  expect_match(
    renamed$err, "2 records have no match in the table of boats", all = FALSE
  )
  refused <- function(...) {
    backfill_cli("periods", "sold.csv", ..., dir = folder)
  }
  for (wrong in list(
    c("--with", "wind.csv"), c("--with", "sold.csv"), c("--with", "none.csv"),
    c("--with", "boats.csv", "--chunked", "--when", "day", "--measure",
      "kilos:flow")
  )) {
    expect_identical(do.call(refused, as.list(wrong))$status, 2L)
  }
  expect_match(
    refused("--with", "wind.csv")$err, "--attributes", all = FALSE
  )
})
