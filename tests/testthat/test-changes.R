# What changed between two runs.

skip_if_not_installed("yaml")

# The folders of runs of one study over its file as each of `edits` leaves it.
runs_of <- function(edits, more = character(), env = parent.frame()) {
  withr::local_envvar(
    R_USER_CACHE_DIR = withr::local_tempdir(.local_envir = env),
    .local_envir = env
  )
  folder <- withr::local_tempdir(.local_envir = env)
  study <- file.path(folder, "study.yaml")
  writeLines(c(
    "backfill: 1", "records:", "  nights:", "    file: inns.csv",
    "    when: month", "    series: inn", "    measures: {guest_nights: flow}",
    more, "steps:", "  - roll_up: {every: month}", "    name: monthly",
    "  - add_growth: {over: 1 year}", "    name: growth",
    "  - flag_periods: {against: a cycle before, beyond: {percent: 15}}",
    "    from: monthly", "    name: flags"
  ), study)
  lines <- readLines(demo_file("inns.csv"))
  vapply(seq_along(edits), function(i) {
    writeLines(edits[[i]](lines), file.path(folder, "inns.csv"))
    out <- file.path(folder, paste0("run-", i))
    run_study(study, out)
    out
  }, "")
}

# The guest nights of an inn in a month made `times` as many.
times <- function(lines, month, inn, times) {
  at <- grep(sprintf("^%s,%s,", month, inn), lines)
  fields <- strsplit(lines[[at]], ",")[[1]]
  fields[[4]] <- round(times * as.numeric(fields[[4]]))
  replace(lines, at, paste(fields, collapse = ","))
}

test_that("records added, revised and gone, figures that moved and flags are told", {
  head <- strsplit(readLines(demo_file("inns.csv"), 1), ",")[[1]]
  expect_identical(head[c(1, 2, 4)], c("month", "inn", "guest_nights"))
  runs <- runs_of(list(identity, function(lines) {
    lines <- times(lines, "2031-06", "Lantern", 2)
    lines <- lines[-grep("^2028-06,Anchor,", lines)]
    c(lines, "2031-12,Hearth,Rook,5000,9000")
  }))
  found <- run_changes(runs[[1]], runs[[2]])
  of <- function(table, what) {
    found[found$table == table & found$what == what, ]
  }
  expect_identical(of("nights", "record added")$where, "2031-12-01, Hearth")
  expect_identical(of("nights", "record added")$after, "5000")
  expect_identical(of("nights", "record gone")$where, "2028-06-01, Anchor")
  revised <- of("nights", "record revised")
  expect_identical(revised$where, "2031-06-01, Lantern")
  expect_identical(revised$percent, 100)
  expect_identical(
    of("flags", "flagged")$where, "Lantern, guest_nights, 2031-06"
  )
  # Against base R over the two tables.
  tables <- lapply(runs, function(run) {
    utils::read.csv(file.path(run, "growth.csv"))
  })
  both <- merge(tables[[1]], tables[[2]], by = c("inn", "measure", "period"))
  for (column in c("value", "growth_1_year")) {
    pair <- both[paste0(column, c(".x", ".y"))]
    moved <- is.na(pair[[1]]) != is.na(pair[[2]]) |
      (!is.na(pair[[1]]) & !is.na(pair[[2]]) & pair[[1]] != pair[[2]])
    rows <- of("growth", "moved")
    rows <- rows[rows$column == column, ]
    expect_setequal(rows$where, paste(
      both$inn, both$measure, substr(both$period, 1, 7), sep = ", "
    )[moved])
  }
  # The change of a change in percent would tell nothing.
  moved <- found[found$what == "moved" & found$column == "growth_1_year", ]
  expect_gt(nrow(moved), 0)
  expect_true(all(is.na(moved$percent)))
  expect_output(
    print(found), "Records of nights: 1 added, 1 revised and 1 gone"
  )
  # A standing is not a figure.
  changed <- found[found$what == "changed", ]
  expect_identical(
    changed$where[changed$table == "monthly" & changed$column == "standing"],
    c("Anchor, guest_nights, 2028-06")
  )
  expect_false("standing" %in% found$column[found$what == "moved"])
  # Backwards it is the other way round.
  back <- run_changes(runs[[2]], runs[[1]])
  expect_identical(
    back$where[back$what == "cleared"], "Lantern, guest_nights, 2031-06"
  )
  expect_identical(sum(back$what == "record added"), 1L)
  expect_identical(
    sort(back$before[back$what == "moved"]),
    sort(found$after[found$what == "moved"])
  )
})

test_that("the same records in another order change nothing, and runs of other steps are told apart", {
  runs <- runs_of(list(identity, function(lines) lines[c(1, length(lines):2)]))
  same <- run_changes(runs[[1]], runs[[2]])
  expect_identical(nrow(same), 0L)
  expect_output(print(same), "Nothing changed")
  study <- file.path(dirname(runs[[1]]), "study.yaml")
  lines <- readLines(study)
  writeLines(c(
    sub(
      "over: 1 year", "over: 1 month", sub("name: flags", "name: odd", lines)
    ),
    "tables: parquet"
  ), study)
  out <- file.path(dirname(study), "other")
  skip_if_not_installed("nanoparquet")
  run_study(study, out)
  found <- run_changes(runs[[1]], out)
  expect_true("table added" %in% found$what)
  expect_true("table gone" %in% found$what)
  columns <- found[grepl("^column", found$what), ]
  expect_identical(columns$column, c("growth_1_month", "growth_1_year"))
})

test_that("a revision among repeated records is told of the right one", {
  runs <- runs_of(list(
    function(lines) {
      c(lines, "2031-11,Hearth,Rook,10,20", "2031-11,Hearth,Rook,30,40")
    },
    function(lines) {
      c(lines, "2031-11,Hearth,Rook,10,20", "2031-11,Hearth,Rook,35,40")
    }
  ), "    duplicates: keep")
  found <- run_changes(runs[[1]], runs[[2]])
  revised <- found[found$what == "record revised", ]
  expect_identical(revised$before, "30")
  expect_identical(revised$after, "35")
})

test_that("backfill study diff tells the same, and says what is not a run", {
  runs <- runs_of(list(
    identity, function(lines) times(lines, "2031-06", "Lantern", 2)
  ))
  ran <- backfill_cli("study", "diff", runs[[1]], runs[[2]], "--format", "csv")
  expect_identical(ran$status, 0L)
  expect_match(ran$err, "Records of nights: 1 revised", all = FALSE)
  table <- utils::read.csv(text = ran$out, colClasses = "character")
  found <- run_changes(runs[[1]], runs[[2]])
  expect_identical(table$where, found$where)
  expect_identical(table$what, found$what)
  for (args in list(
    runs[[1]], c(runs, runs[[1]]), c(runs[[1]], tempdir()),
    c(runs[[1]], "nowhere"), c(runs, "--format", "xml"),
    c(runs, "--out", "x.csv")
  )) {
    bad <- backfill_cli("study", "diff", args)
    expect_identical(bad$status, 2L, label = toString(args))
  }
  expect_error(run_changes(runs[[1]], tempdir()), "not the folder of a run",
               class = "backfill_error_file")
  expect_error(run_changes(3, runs[[1]]), class = "backfill_error_file")
})

test_that("records that are gone from a run's folder are told, not passed over", {
  runs <- runs_of(list(identity, identity))
  unlink(file.path(runs[[1]], "nights-records.csv.gz"))
  found <- run_changes(runs[[1]], runs[[2]])
  expect_output(print(found), "Nothing that is compared changed")
  expect_output(print(found), "Records of nights are not compared")
})

test_that("what rounding hides is counted, and flags and records come first", {
  runs <- withr::local_tempdir()
  kept <- function(name, kilos) {
    folder <- file.path(runs, name)
    dir.create(folder)
    day <- seq(as.Date("2029-01-01"), by = "month", length.out = 36)
    utils::write.csv(
      data.frame(day = day, kilos = sprintf("%.9f", kilos)),
      file.path(folder, "fish.csv"), row.names = FALSE
    )
    study <- file.path(folder, "fish.yaml")
    writeLines(c(
      "backfill: 1", "records:", "  fish: {file: fish.csv, when: day,",
      "    measures: {kilos: flow}}", "steps:",
      "  - roll_up: {every: month}", "    name: monthly",
      "  - flag_periods: {against: last periods}", "    name: flags"
    ), study)
    run_study(study, file.path(folder, "run"))
    file.path(folder, "run")
  }
  kilos <- withr::with_seed(2, 100 + stats::rnorm(36))
  old <- kept("june", kilos)
  hardly <- run_changes(old, kept("july", kilos + c(1e-6, rep(0, 35))))
  expect_gt(nrow(hardly), 0)
  expect_match(
    capture.output(print(hardly)), "changed by less than is shown", all = FALSE
  )
  # Records are listed as they are, the figures that nobody reads are not.
  shown <- grep("^monthly", capture.output(print(hardly)), value = TRUE)
  expect_length(shown, 0)
  far <- run_changes(old, kept("august", kilos + c(rep(0, 35), 80)))
  said <- backfill:::sentences_of(far)
  expect_match(said[[1]], "^Newly flagged in flags: kilos, 2031-12")
  expect_match(said[[2]], "^Records of fish: 1 revised")
  # A page of the later run begins with them.
  page <- file.path(runs, "page.html")
  study <- file.path(runs, "august", "fish.yaml")
  ran <- backfill_cli("report", study, "--since", old, "--out", page)
  expect_identical(ran$status, 0L)
  html <- xml2::read_html(page)
  first <- xml2::xml_find_first(html, "//section[@id='in-short']//li")
  expect_match(xml2::xml_text(first), "Newly flagged in flags: kilos, December")
  told <- xml2::xml_text(xml2::xml_find_all(html, "//section[@id='since']/p"))
  expect_identical(told[[1]], "Since the run before")
  expect_match(told[[2]], sprintf(
    "fish: 1 revised[.] In all %d figures changed[.]$",
    sum(far$what == "moved")
  ))
  ran <- backfill_cli("report", study, "--since", runs, "--out", page)
  expect_identical(ran$status, 2L)
  expect_match(ran$err, "`--since` is .*not the folder of a run", all = FALSE)
  expect_error(
    write_report(run_study(study), page, changes = old),
    class = "backfill_error_argument"
  )
})

test_that("what the figures decide otherwise is told: a form, a base", {
  folder <- withr::local_tempdir()
  n <- 72
  noise <- withr::with_seed(5, stats::rnorm(n, 0, 0.02))
  month <- seq(as.Date("2026-01-01"), by = "month", length.out = n)
  wave <- 0.4 * sin(2 * pi * seq_len(n) / 12)
  grown <- 100 * exp(0.15 * seq_len(n) / 12)
  study <- file.path(folder, "study.yaml")
  writeLines(c(
    "backfill: 1", "records:", "  mill:", "    file: mill.csv",
    "    when: month", "    measures: {sacks: level}", "steps:",
    "  - roll_up: {every: month}", "    name: monthly",
    "  - seasonal_index: {form: auto}", "    from: monthly", "    name: season",
    "  - project: {periods: 6, form: auto}",
    "    from: monthly", "    name: ahead"
  ), study)
  run <- function(sacks, name) {
    utils::write.csv(
      data.frame(month, sacks), file.path(folder, "mill.csv"),
      row.names = FALSE
    )
    run_study(study, file.path(folder, name))
    file.path(folder, name)
  }
  first <- run(grown * (1 + wave) * exp(noise), "june")
  second <- run(100 + seq_len(n) + 100 * (wave + noise), "july")
  found <- run_changes(first, second)
  chosen <- found[found$what == "choice", ]
  expect_identical(
    chosen[chosen$column == "form", c("table", "before", "after")] |>
      as.data.frame(),
    data.frame(
      table = c("season", "ahead"), before = "multiplicative",
      after = "additive"
    )
  )
  expect_match(
    backfill:::sentences_of(found),
    "^The form of season is additive now; it was multiplicative[.]$",
    all = FALSE
  )
  base <- function(run) {
    ahead <- read_periods(file.path(run, "ahead.csv"))
    attributes(ahead)$backfill$projected$bases$base
  }
  expect_identical(
    nrow(chosen[chosen$column == "base", ]),
    as.integer(base(first) != base(second))
  )
  again <- run(100 + seq_len(n) + 100 * (wave + noise), "august")
  expect_identical(nrow(run_changes(second, again)), 0L)
})
