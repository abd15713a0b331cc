# Names that were given up stay so: one word for one thing, in R, in a shell and
# in the columns of what comes back.

given_up <- c(
  "intake", "set_aside", "derive", "keep_out", "lift", "oldest", "together",
  "made", "split", "working", "working_days", "level", "interval", "wealth"
)

test_that("no function, argument or option has a name that was given up", {
  exported <- setdiff(getNamespaceExports("backfill"), "autoplot")
  arguments <- unlist(lapply(exported, function(name) {
    names(formals(getExportedValue("backfill", name)))
  }))
  expect_identical(intersect(c(exported, arguments), given_up), character())
  methods <- ls(asNamespace("backfill"), pattern = "^(autoplot|summary)[.]")
  arguments <- unlist(lapply(methods, function(name) {
    names(formals(get(name, asNamespace("backfill"))))
  }))
  expect_identical(intersect(arguments, given_up), character())
  folder <- withr::local_tempdir()
  for (command in c(
    "inspect", "periods", "growth", "moving", "season", "lags", "flags",
    "links"
  )) {
    said <- command_line(command, "--help", "all", dir = folder)$out
    options <- unlist(regmatches(said, gregexpr("--[a-z-]+", said)))
    expect_identical(
      intersect(gsub("-", "_", sub("^--", "", options)), given_up),
      character(), label = command
    )
  }
})

test_that("no page or example knows the names that were given up, or files that are gone", {
  pages <- c(
    checkout("README.md"), Sys.glob(checkout("docs", "*.md")),
    Sys.glob(checkout("man", "*.Rd")), Sys.glob(checkout("R", "*.R"))
  )
  text <- unlist(lapply(pages, readLines, warn = FALSE))
  gone <- paste0(
    "sailings|guest-nights|fish-auction|cold-store|harbour-economy|",
    "sea-temperature|\\bintake\\(|[^_]set_aside\\(|\\bderive\\(|",
    "\"same position\"|keep_out|kruskal_wallis_p|moving_p\\b"
  )
  expect_identical(grep(gone, text, value = TRUE), character())
})

test_that("a word of the trade that is called otherwise here is answered with ours", {
  monthly <- roll_up(inns(), "month")
  answered <- function(code, word) {
    expect_error(code, sprintf("\"%s\"", word), class = "backfill_error")
  }
  answered(add_moving(monthly, 3, stat = "max"), "highest")
  answered(add_moving(monthly, 3, stat = "total"), "sum")
  answered(add_moving(monthly, 3, align = "center"), "centred")
  answered(flag_periods(monthly, "last year"), "a cycle before")
  answered(impute_gaps(monthly, "interpolate"), "linear")
  answered(cycle_profile(monthly, "day of week"), "weekday")
  answered(add_growth(monthly, as = "percnt"), "percent")
  answered(flag_periods(monthly, beyond = c(zscore = 3)), "sd")
  answered(roll_up(monthly, "dekad"), "third")
  # Both forms of one name are understood.
  expect_identical(
    cycle_profile(monthly, "day_of_year")$n, cycle_profile(
      monthly, "day of year"
    )$n
  )
})

test_that("one span has one name", {
  monthly <- roll_up(inns(), "month")
  expect_identical(
    names(add_growth(monthly, c(1, 12)))[8:9],
    c("growth_1_month", "growth_12_months")
  )
})

test_that("rows that name no series are told", {
  data <- data.frame(
    day = as.Date("2031-01-01") + 0:5,
    site = c("Kell", NA, "Brod", "", "x", NA), v = 1
  )
  notes <- function(data) {
    account(as_records(data, "day", c(v = "flow"), series = "site"))$notes
  }
  expect_match(notes(data), "3 rows have no name in \"site\"", all = FALSE)
  expect_match(notes(data[1:2, ]), "1 row has no name", all = FALSE)
  expect_identical(notes(data[1, ]), character())
  data$site <- factor(data$site)
  expect_match(notes(data), "have no name in \"site\"", all = FALSE)
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(data, file, row.names = FALSE, na = "")
  expect_match(
    account(read_records(file, "day", c(v = "flow"), series = "site"))$notes,
    "3 rows have no name", all = FALSE
  )
})

test_that("a measure's label is what figures and pages call it, also after it was kept", {
  skip_if_not_installed("yaml")
  withr::local_envvar(R_USER_CACHE_DIR = withr::local_tempdir())
  folder <- withr::local_tempdir()
  file.copy(demo_file("inns.csv"), folder)
  study <- file.path(folder, "nights.yaml")
  writeLines(c(
    "backfill: 1", "records:", "  nights:", "    file: inns.csv",
    "    when: month", "    series: inn", "    measures:",
    "      guest_nights: {kind: flow, label: nights sold}", "steps:",
    "  - roll_up: {every: month}", "    name: monthly",
    "  - add_growth: {over: 1 year}", "    name: growth",
    "  - seasonal_index: {}", "    from: monthly", "    name: season",
    "  - flag_periods: {against: a cycle before}", "    from: monthly",
    "    name: flags", "report: {formats: html}"
  ), study)
  out <- file.path(folder, "run")
  run <- run_study(study, out)
  titles <- vapply(list(
    study_result(run, "monthly"), study_result(run, "growth"),
    study_result(run, "season"), study_result(run, "flags"),
    latest(study_result(run, "monthly")),
    trend_line(study_result(run, "monthly"), of = "value"),
    project(study_result(run, "monthly"), 3),
    autocorrelation(study_result(run, "monthly")),
    cycle_profile(study_result(run, "monthly"), "month")
  ), function(x) autoplot(x)$labels$title, "")
  expect_match(titles, "[Nn]ights sold")
  page <- xml2::read_html(file.path(out, "report.html"))
  said <- xml2::xml_text(xml2::xml_find_all(page, "//h2 | //li/a"))
  expect_match(said, "nights sold of Hearth", all = FALSE)
  expect_match(said, "Nights sold over the year to", all = FALSE)
  expect_no_match(said, "guest.nights")
  back <- read_periods(file.path(out, "monthly.csv"))
  expect_identical(
    backfill:::facts(back)$measures$guest_nights$label, "nights sold"
  )
  expect_match(study_script(read_study(study)), "nights sold", all = FALSE)
  expect_error(
    measure("flow", label = ""), class = "backfill_error_argument"
  )
})

test_that("measures with units stand in c() as in list()", {
  table <- data.frame(
    when = as.Date("2031-01-01"), b = "A", kilos = 1, price = 2, each = 3
  )
  read <- function(measures) as_records(table, "when", measures, series = "b")
  as_list <- list(
    price = "level", kilos = measure("flow", "kg", label = "catch"),
    each = measure("ratio", of = "price", per = "kilos"), n = measure("count")
  )
  expect_identical(read(do.call(c, as_list)), read(as_list))
  expect_identical(read(do.call(c, rev(as_list))), read(rev(as_list)))
})

test_that("panels and the ends of lines are called as people say it", {
  named <- function(plot) {
    built <- ggplot2::ggplot_build(plot)
    strips <- built$layout$facet$params$labeller(built$layout$layout["line"])
    unlist(strips, use.names = FALSE)
  }
  x <- read_records(demo_file("inns.csv"), "month", list(
    guest_nights = measure("flow", label = "nights sold"), bed_nights = "flow"
  ), "inn")
  x <- roll_up(x, "month")
  expect_identical(named(autoplot(flag_periods(x, "a cycle before")))[1:2], c(
    "Nights sold of Anchor", "Bed nights of Anchor"
  ))
  ends <- function(plot) {
    unlist(lapply(ggplot2::ggplot_build(plot)$data, function(layer) {
      setdiff(layer$label, "")
    }))
  }
  inns <- c("Anchor", "Hearth", "Lantern", "Wherry")
  expect_setequal(ends(autoplot(x)), inns)
  # One unit is one panel, which does not say the measure.
  x <- read_records(demo_file("inns.csv"), "month", list(
    guest_nights = measure("flow", "nights"),
    bed_nights = measure("flow", "nights")
  ), "inn")
  expect_setequal(ends(autoplot(roll_up(x, "month"))), paste(
    c("guest nights of", "bed nights of"), rep(inns, each = 2)
  ))
})
