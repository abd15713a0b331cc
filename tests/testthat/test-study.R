# Studies: read safely, run as R would, stored and put in place whole.

skip_if_not_installed("yaml")

# A folder with a copy of the inns' file and a study of these lines.
study_in <- function(lines, env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  file.copy(demo_file("inns.csv"), folder)
  writeLines(lines, file.path(folder, "study.yaml"))
  file.path(folder, "study.yaml")
}

small <- c(
  "backfill: 1", "title: Nights", "records:", "  nights:",
  "    file: inns.csv", "    when: month", "    series: inn",
  "    measures: {guest_nights: flow}", "steps:",
  "  - roll_up: {every: month}", "    name: monthly",
  "  - add_growth:", "      over: 1 year", "    name: growth",
  "  - flag_periods: {against: a cycle before, beyond: {percent: 12}}",
  "    from: monthly", "    name: flags"
)

test_that("a study gives what the calls of R give", {
  own_store()
  done <- run_study(study_in(small))
  monthly <- roll_up(inns(), "month")
  columns <- function(x) lapply(x, as.vector)
  expect_identical(
    columns(study_result(done, "growth")),
    columns(add_growth(monthly, "1 year"))
  )
  expect_identical(
    columns(study_result(done, "flags")),
    columns(flag_periods(monthly, "a cycle before", c(percent = 12)))
  )
  expect_identical(done$name, c("nights", "monthly", "growth", "flags"))
})

test_that("the script of the demo's study makes the same tables to the last bit", {
  own_store()
  folder <- withr::local_tempdir()
  names <- c("inns.csv", "landings.csv", "nights-study.yaml")
  file.copy(vapply(names, demo_file, ""), folder)
  file <- file.path(folder, "nights-study.yaml")
  done <- run_study(file)
  script <- file.path(folder, "nights.R")
  writeLines(study_script(file), script)
  answer <- processx::run(
    file.path(R.home("bin"), "Rscript"), c("--vanilla", script), wd = folder,
    error_on_status = FALSE, env = c("current", R_LIBS = paste(
      .libPaths(), collapse = .Platform$path.sep
    ))
  )
  expect_identical(answer$status, 0L, label = answer$stderr)
  out <- file.path(folder, "run")
  run_study(file, out)
  tables <- list.files(out, "[.]csv$")
  tables <- setdiff(tables, list.files(out, "set-aside"))
  expect_gt(length(tables), 8)
  for (table in tables) {
    expect_identical(
      unname(tools::md5sum(file.path(folder, table))),
      unname(tools::md5sum(file.path(out, table))), label = table
    )
  }
  figures <- list.files(out, "[.]png$")
  expect_length(figures, 5)
  expect_true(all(file.exists(file.path(folder, figures))))
})

test_that("mistakes are told all at once, each with its line and the nearest word", {
  lines <- replace(small, c(6, 10, 13, 16), c(
    "    wehn: month", "  - roll_upp: {every: month}",
    "      ovr: 1 year", "    from: montly"
  ))
  said <- tryCatch(
    read_study(study_in(lines)), backfill_error_study = conditionMessage
  )
  expect_match(said, "line 6: There is no key \"wehn\".*when")
  expect_match(said, "line 10: There is no verb \"roll_upp\".*roll_up")
  expect_match(said, "line 13: There is no key \"ovr\".*over")
  expect_match(said, "line 16: \"montly\" is not the name")
  # What a verb itself refuses comes with the line of its step.
  own_store()
  lines <- replace(small, 10, "  - roll_up: {every: fortnite}")
  expect_error(
    run_study(study_in(lines)), "line 10, \"monthly\": .*fortnite",
    class = "backfill_error_study"
  )
})

test_that("a figure that cannot be drawn is told, also without a folder", {
  own_store()
  file <- study_in(
    c(small, "figures:", "  - of: flags", "    highlight: Inn X")
  )
  expect_error(
    run_study(file), "line 19, \"flags\"", class = "backfill_error_study"
  )
  for (odd in c("tpye: years", "type: years\n    colour: red")) {
    file <- study_in(c(
      small, "figures:", "  - of: monthly", paste0("    ", odd)
    ))
    expect_error(
      run_study(file), "has no `(tpye|colour)`", class = "backfill_error_study"
    )
  }
  short <- study_in(c(small, "figures: [flags, growth]"))
  expect_identical(names(read_study(short)$figures), c("flags", "growth"))
})

test_that("a hostile study touches nothing", {
  outside <- withr::local_tempfile(fileext = ".csv")
  file.copy(demo_file("inns.csv"), outside)
  refused <- function(lines, pattern) {
    file <- study_in(lines)
    link <- file.path(dirname(file), "link.csv")
    file.symlink(outside, link)
    expect_error(
      read_study(file), pattern, class = "backfill_error_study",
      label = pattern
    )
  }
  with_file <- function(path) replace(small, 5, paste("    file:", path))
  refused(with_file(outside), "outside the folder")
  refused(with_file("link.csv"), "outside the folder")
  refused(with_file(file.path("..", basename(dirname(outside)),
                              basename(outside))), "no file|outside")
  refused(with_file("https://tarn.example/inns.csv"), "is an address")
  refused(replace(small, 2, "title: !expr file.create('made')"), "line 2: tags")
  refused(replace(small, 2, "title: &a [x]"), "line 2: tags")
  refused(c(small, "note: *a"), "tags")
  refused(c(small, "title: again"), "title.* is given twice")
  refused(c(small, "note: [unclosed"), "it is not YAML")
  refused(small[-1], "is not a study")
  refused(replace(small, 1, "backfill: 2"), "version 2")
  refused(
    c(small, paste0("note: ", strrep("[", 60), strrep("]", 60))), "nested"
  )
  refused(c(small, "# ", strrep("x", 1.1e6)), "longer than 1 MB")
  for (formula in c("system('touch made')", "guest_nights^2", "`q`()")) {
    refused(append(small, after = 9, c(
      paste0("  - add_measures: {made: \"", formula, "\"}"), "    name: more"
    )), "must be arithmetic")
  }
  for (name in c("\"if\"", "../x", "a b", "=cmd", "1st")) {
    refused(replace(small, 11, paste0("    name: ", name)), "must start with")
  }
  # With permission it is read; text in quotation marks is text.
  file <- study_in(replace(with_file(outside), 2, "title: \"! & *\""))
  expect_s3_class(read_study(file, outside = TRUE), "backfill_study")
})

test_that("a query of a study cannot load code into the database", {
  skip_if_not_installed("RSQLite")
  own_store()
  file <- study_in(replace(small, 5, c(
    "    file: nights.sqlite\n    table: SELECT load_extension('/nowhere')"
  )))
  made <- DBI::dbConnect(
    RSQLite::SQLite(), file.path(dirname(file), "nights.sqlite")
  )
  DBI::dbWriteTable(made, "nights", data.frame(month = "2031-01", n = 1))
  DBI::dbDisconnect(made)
  said <- tryCatch(run_study(file), error = conditionMessage)
  expect_match(said, "not authorized")
})

test_that("what has not changed is taken from the store, and what has is made anew", {
  own_store()
  file <- study_in(small)
  stored <- function(...) {
    done <- run_study(file, ...)
    stats::setNames(done$stored, done$name)
  }
  expect_false(any(stored()))
  first <- run_study(file)
  expect_true(all(first$stored))
  expect_false(any(stored(fresh = TRUE)))
  lines <- readLines(file)
  writeLines(sub("1 year", "1 month", lines), file)
  expect_identical(
    stored(), c(nights = TRUE, monthly = TRUE, growth = FALSE, flags = TRUE)
  )
  # One byte of the input changes all.
  data <- file.path(dirname(file), "inns.csv")
  text <- readLines(data)
  writeLines(sub("^(2028-02,.*),([0-9]+),", "\\1,9\\2,", text), data)
  expect_false(any(stored()))
  expect_false(identical(
    study_result(run_study(file), "monthly")$value,
    study_result(first, "monthly")$value
  ))
  # The same bytes elsewhere are other records, since results name their file.
  expect_false(any(run_study(study_in(small))$stored))
})

test_that("a warning comes again with a result that was stored", {
  own_store()
  file <- study_in(c(
    small[1:11], "  - correlations: {on: values}", "    name: together"
  ))
  warned <- function() {
    rlang::catch_cnd(run_study(file), "backfill_warning_use")
  }
  first <- suppressWarnings(run_study(file))
  expect_false(any(first$stored))
  direct <- rlang::catch_cnd(
    correlations(roll_up(inns(), "month"), on = "values"), "backfill_warning"
  )
  expect_identical(conditionMessage(warned()), conditionMessage(direct))
  expect_true(all(suppressWarnings(run_study(file))$stored))
})

test_that("a run replaces a run, and nothing else; the same input gives the same bytes", {
  own_store()
  file <- study_in(c(small, "figures:", "  - of: flags"))
  folder <- dirname(file)
  out <- file.path(folder, "run")
  run_study(file, out)
  sums <- function() tools::md5sum(list.files(out, full.names = TRUE))
  first <- sums()
  expect_setequal(
    list.files(out),
    c(
      "findings.txt", "flags.png", "manifest.json", "nights-account.txt",
      "nights-records.csv.gz", "nights-set-aside.csv", "study.yaml",
      outer(c("flags", "growth", "monthly"), c("", "-metadata.json"), paste,
            sep = ".csv")
    )
  )
  manifest <- jsonlite::fromJSON(file.path(out, "manifest.json"))
  expect_identical(manifest$read$md5, unname(tools::md5sum(
    demo_file("inns.csv")
  )))
  expect_identical(
    manifest$written$md5,
    unname(tools::md5sum(file.path(out, manifest$written$file)))
  )
  run_study(file, out, fresh = TRUE)
  expect_identical(sums(), first)
  expect_identical(
    list.files(folder, all.files = TRUE, no.. = TRUE),
    sort(c("inns.csv", "run", "study.yaml"))
  )
  other <- file.path(folder, "other")
  dir.create(other)
  writeLines("mine", file.path(other, "notes.txt"))
  for (taken in list(other, folder, file.path(folder, "no", "where"))) {
    expect_error(run_study(file, taken), class = "backfill_error_file")
  }
  expect_identical(readLines(file.path(other, "notes.txt")), "mine")
})

test_that("a run that is killed leaves the former one whole", {
  skip_on_os("windows")
  own_store()
  file <- study_in(c(small, "figures:", "  - of: flags"))
  out <- file.path(dirname(file), "run")
  run_study(file, out)
  whole <- function() {
    manifest <- jsonlite::fromJSON(file.path(out, "manifest.json"))
    made <- file.path(out, manifest$written$file)
    identical(unname(tools::md5sum(made)), manifest$written$md5)
  }
  code <- sprintf("invisible(backfill::run_study('%s', '%s'))", file, out)
  took <- system.time(processx::run(
    file.path(R.home("bin"), "Rscript"), c("--vanilla", "-e", code),
    env = c("current", R_LIBS = paste(.libPaths(), collapse = ":"))
  ))[["elapsed"]]
  times <- as.integer(Sys.getenv("BACKFILL_KILLS", "2"))
  for (i in seq_len(times)) {
    # Half of them as the folder is written, in the last part of the run.
    wait <- took * if (i %% 2 == 0) stats::runif(1) else stats::runif(1, 0.7, 1)
    child <- processx::process$new(
      file.path(R.home("bin"), "Rscript"), c("--vanilla", "-e", code),
      env = c("current", R_LIBS = paste(.libPaths(), collapse = ":"))
    )
    Sys.sleep(wait)
    child$kill(grace = 0)
    expect_true(whole())
  }
  run_study(file, out)
  expect_identical(
    grep("-run-", list.files(dirname(file), all.files = TRUE), value = TRUE),
    character()
  )
})

test_that("every verb of R can be a step, and the schema knows all of them", {
  schema <- jsonlite::fromJSON(study_schema(), simplifyVector = FALSE)
  steps <- schema$properties$steps$items$anyOf
  known <- vapply(steps, function(step) step$required[[1]], "")
  exported <- getNamespaceExports("backfill")
  expect_true(all(setdiff(known, "summary") %in% exported))
  roll_up <- steps[[match("roll_up", known)]]$properties$roll_up
  expect_true(all(names(roll_up$properties) %in% names(formals(
    backfill::roll_up
  ))))
  expect_true(all(c("put_together", "align_as_of", "project") %in% known))
})

test_that("values of every form come through", {
  own_store()
  folder <- withr::local_tempdir()
  file.copy(
    vapply(c("crossings.csv", "holidays.ics", "ledger.csv", "inns.csv"),
           demo_file, ""),
    folder
  )
  writeLines(c(
    "backfill: 1", "records:",
    "  crossings:", "    file: crossings.csv", "    when: time",
    "    zone: WET", "    measures:", "      market: flow:boardings",
    "      tide: {kind: flow}",
    "  ledger:", "    file: ledger.csv", "    when: period",
    "    series: item", "    known: entered", "    measures: {value: level}",
    "calendar: {every: working day, holidays: holidays.ics}",
    "steps:",
    "  - keep_dates: {from: 2029-02-01, hours: 6:9, workdays: yes}",
    "    from: crossings", "    name: mornings",
    "  - add_measures: {both: market + tide}",
    "  - rename_measures: {all: both}", "    name: summed",
    "  - roll_up:", "    name: working",
    "  - roll_up: {every: month, enough: 0.5}", "    from: summed",
    "    name: monthly",
    "  - roll_up: {every: week, use: {all: [highest, count]}}",
    "    from: summed", "    name: weekly",
    "  - align_as_of: {on: quarter}", "    from: ledger", "    name: aligned",
    "  - rank_links: {target: ice sold, ahead: [0, 1]}", "    name: ranked",
    "  - seasonal_index: {cycle: 12}", "    from: monthly", "    name: index",
    "  - summary: {type: worksheet}", "    name: sheet",
    "  - cycle_grid: {rows: weekday, columns: hour}", "    from: summed",
    "    name: hours"
  ), file.path(folder, "all.yaml"))
  done <- run_study(file.path(folder, "all.yaml"))
  crossings <- add_measures(
    keep_dates(
      read_records(
        demo_file("crossings.csv"), when = "time", zone = "WET",
        measures = list(market = measure("flow", "boardings"), tide = "flow")
      ),
      from = "2029-02-01", hours = 6:9, workdays = TRUE
    ),
    both = market + tide
  )
  summed <- rename_measures(crossings, all = "both")
  expect_equal(
    study_result(done, "monthly")$value,
    roll_up(summed, "month", enough = 0.5)$value
  )
  expect_equal(
    columns(study_result(done, "weekly")),
    columns(roll_up(summed, "week", use = list(all = c("highest", "count"))))
  )
  expect_equal(
    study_result(done, "working")$value,
    roll_up(summed, calendar(
      "working day", holidays = read_holidays(demo_file("holidays.ics"))
    ))$value
  )
  expect_identical(
    names(study_result(done, "ranked"))[1:3],
    c("candidate", "horizon", "ahead")
  )
  expect_true("adjusted" %in% names(study_result(done, "sheet")))
})

test_that("studies come from the command line, from the first draft on", {
  own_store()
  folder <- withr::local_tempdir()
  file.copy(demo_file("inns.csv"), folder)
  cli <- function(...) backfill_cli("study", ..., dir = folder)
  at <- function(name) file.path(folder, name)
  draft <- cli("draft", "inns.csv")
  expect_identical(draft$status, 0L)
  writeLines(draft$out, at("draft.yaml"))
  checked <- cli("check", "draft.yaml")
  expect_identical(checked$status, 0L)
  expect_match(checked$out, "roll_up", all = FALSE)
  run <- cli("run", "draft.yaml", "--out", "run")
  expect_identical(run$status, 0L, label = paste(run$err, collapse = "\n"))
  expect_true(file.exists(at("run/rolled.png")))
  expect_match(
    cli("run", "draft.yaml")$out, "TRUE", all = FALSE
  )
  script <- cli("as-r", "draft.yaml")
  expect_match(script$out, "rolled <- roll_up", all = FALSE)
  expect_identical(cli("schema", "-")$status, 0L)
  writeLines(sub("every", "evry", draft$out), at("odd.yaml"))
  nowhere <- cli("run", "draft.yaml", "--out", "no/where")
  expect_identical(nowhere$status, 2L)
  expect_match(nowhere$err, "--out", fixed = TRUE, all = FALSE)
  odd <- cli("check", "odd.yaml")
  expect_identical(odd$status, 2L)
  expect_match(odd$err, "line [0-9]+", all = FALSE)
  for (bad in list(
    c("runn", "draft.yaml"), "run", c("check", "draft.yaml", "--out", "x"),
    c("run", "none.yaml")
  )) {
    expect_identical(do.call(cli, as.list(bad))$status, 2L)
  }
})

test_that("a run certifies what it read, or does not end", {
  own_store()
  folder <- withr::local_tempdir()
  file <- file.path(folder, "inns.csv")
  file.copy(demo_file("inns.csv"), file)
  study <- file.path(folder, "study.yaml")
  writeLines(c(
    "backfill: 1", "records:", "  nights:", "    file: inns.csv",
    "    when: month", "    series: inn", "    measures: {guest_nights: flow}",
    "steps:", "  - roll_up: {every: month}", "    name: monthly"
  ), study)
  # The file changes once it was read.
  within <- asNamespace("backfill")
  whole <- within$with_warnings
  put <- function(as) {
    unlockBinding("with_warnings", within)
    assign("with_warnings", as, envir = within)
  }
  withr::defer(put(whole))
  put(function(code) {
    found <- whole(code)
    cat("2032-01,Hearth,Rook,1,1\n", file = file, append = TRUE)
    found
  })
  expect_error(
    run_study(study, file.path(folder, "out")), "changed while the study read",
    class = "backfill_error_file"
  )
  expect_false(dir.exists(file.path(folder, "out")))
  put(whole)
  run_study(study, file.path(folder, "out"))
  # What lies in the store in another shape is made anew.
  entries <- list.files(
    file.path(tools::R_user_dir("backfill", "cache"), "steps"),
    full.names = TRUE
  )
  expect_gt(length(entries), 1)
  for (shape in list(1:3, "text", list(value = 1), mtcars)) {
    for (entry in entries) saveRDS(shape, entry)
    done <- run_study(study)
    expect_false(any(done$stored))
  }
})

test_that("no argument of a verb is an internal fault where a list is given", {
  declared <- backfill:::verbs()
  faults <- new.env()
  faults$add <- function(path, said) faults$said <- c(faults$said, said)
  internal <- character()
  lists <- list(
    c("x", "y"), c("1 month", "3 months"), c("1", "2"), c("a:1", "b:2"),
    NA_character_
  )
  for (verb in names(declared)) {
    for (name in names(declared[[verb]]$arguments)) {
      type <- declared[[verb]]$arguments[[name]]$type
      for (value in lists) {
        read <- tryCatch(
          backfill:::parsed_text(value, name, type, name, faults),
          error = function(cnd) conditionMessage(cnd)
        )
        if (any(grepl("length > 1|TRUE/FALSE|subscript", unlist(read)))) {
          internal <- c(internal, paste(verb, name))
        }
      }
    }
  }
  expect_identical(internal, character())
  expect_gt(length(faults$said), 0)
  own_store()
  folder <- withr::local_tempdir()
  file.copy(demo_file("inns.csv"), folder)
  study <- file.path(folder, "study.yaml")
  writeLines(c(
    "backfill: 1", "records:", "  nights:", "    file: inns.csv",
    "    when: month", "    series: inn", "    measures: {guest_nights: flow}",
    "steps:", "  - roll_up: {every: month}", "    name: monthly",
    "  - add_growth: {over: [1 month, 3 months]}", "    name: growth"
  ), study)
  expect_true(all(c("growth_1_month", "growth_3_months") %in% names(
    study_result(run_study(study), "growth")
  )))
})

test_that("a pattern names its files' series, and takes up a file that comes", {
  own_store()
  folder <- withr::local_tempdir()
  write_cases <- function(region) {
    days <- as.Date("2030-01-01") + 0:20
    utils::write.csv(
      data.frame(day = days, cases = seq_along(days)),
      file.path(folder, sprintf("cases-%s.csv", region)), row.names = FALSE
    )
  }
  lapply(c("north", "south"), write_cases)
  writeLines(
    c("region,island", "north,Ostrel", "south,Ostrel", "west,Lissary"),
    file.path(folder, "regions.csv")
  )
  file <- file.path(folder, "study.yaml")
  writeLines(c(
    "backfill: 1", "title: Cases", "records:", "  cases:",
    "    file: cases-*.csv", "    when: day", "    source: region",
    "    measures: {cases: flow}", "steps:",
    "  - add_attributes: {table: regions.csv}", "    name: known",
    "  - roll_up: {every: week, by: island}", "    name: weekly"
  ), file)
  out <- file.path(folder, "run")
  islands <- function() {
    unique(study_result(run_study(file, out), "weekly")$island)
  }
  expect_identical(suppressMessages(islands()), "Ostrel")
  write_cases("west")
  expect_identical(islands(), c("Lissary", "Ostrel"))
})
