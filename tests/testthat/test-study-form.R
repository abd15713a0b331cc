# What a study may be made of is decided as its parser comes to it, in time that
# grows with its length alone; and what a run may take the place of.

skip_if_not_installed("yaml")

form_of <- function(...) backfill:::yaml_form_cpp(paste(..., sep = "\n"))

test_that("tags, anchors and references are found wherever a parser finds them, and nowhere else", {
  marked <- list(
    "a: &x 1", "a: !t 1", "a: [1, *x]", "- &x", "? &x a", "a:\n  &x b: 1",
    "a: it's\nb: &x isn't", "a: 'it''s'\nb: *x # it's", "[a, !t b]",
    "{a: &x 1}",
    "a: \"\\\"\"\nb: &x \"", "--- &x\na: 1", "- - - *x", "a: |\n  text\nb: *x",
    "a: !!str 1", "a: ! 1", "a:\n- &x 1", "&x a: 1",
    "a: b\n&x c: d", "- a: |\n    &t\n  b: &x 1", "a: [\n  b,\n  &x c]"
  )
  for (text in marked) {
    expect_gt(form_of(text)[["marked"]], 0, label = text)
  }
  plain <- list(
    "a: b & c", "a: b &c", "a: 'x &y *z !t'", "a: \"x: &y\n  *z\"", "# &x *y",
    "a: |\n  &x\n  *y\n  !z\nb: 1", "a: >\n\n  &x\n", "a: b!c*d&e", "a&b: 1",
    "a: b\n  &c d", "- it's &a\n- *", "a: b # &x", "a: 5 * 3", "a: [b &c, d*e]",
    "a:\n  - |\n    &x\n  - b", "'&x': 1", "a: \"\\\" &x\"", "- a: |\n    *x"
  )
  for (text in plain) {
    expect_identical(form_of(text)[["marked"]], 0L, label = text)
  }
})

test_that("where a parser takes a mark for text, so do we, in each style", {
  withr::local_seed(1)
  words <- c("it's", "&a", "*b", "!c", "d: e", "#f", "x", "- y", "\"", "[", "|")
  wrong <- character()
  for (i in 1:200) {
    text <- paste(sample(words, 4, TRUE), collapse = " ")
    for (style in c(
      paste0("'", gsub("'", "''", text), "'"),
      paste0("\"", gsub("\"", "\\\\\"", text), "\""),
      paste0("|\n   ", text), paste0("x ", gsub("[:#]", "", text))
    )) {
      file <- paste0("a: ", style, "\nb: 1")
      read <- tryCatch(yaml::yaml.load(file), error = function(cnd) NULL)
      if (is.null(read)) next
      marked <- paste0("a: ", style, "\nb: &q 1\nc: *q")
      line <- length(strsplit(marked, "\n")[[1]]) - 1L
      wrong <- c(
        wrong, if (form_of(file)[["marked"]] != 0L) file,
        if (form_of(marked)[["marked"]] != line) marked
      )
    }
  }
  expect_identical(wrong, character())
})

test_that("depth is counted however it is written, and a megabyte takes no more than ten times a tenth of it", {
  deep <- function(text) form_of(text)[["depth"]]
  expect_identical(deep(strrep("- ", 60)), 60L)
  expect_identical(deep(strrep("[", 60)), 60L)
  expect_identical(
    deep(paste0(strrep(" ", 0:59), "a:", collapse = "\n")), 60L
  )
  expect_identical(deep(paste(rep("- a: [1]", 1000), collapse = "\n")), 3L)
  expect_identical(deep("a:\n  - b\n  - c:\n      - d"), 5L)
  expect_identical(deep(strrep("- a\n", 1e5)), 2L)
  megabytes <- list(
    strrep("- ", 4.9e5), strrep("[", 9e5), strrep("- a\n", 2.4e5),
    strrep("'", 9e5), strrep("a: |\n", 1.9e5), strrep("\n", 9e5),
    strrep("- {nonsense: 1}\n", 6e4), paste(strrep("x ", 4.9e5)),
    strrep("? ", 4.9e5), strrep("&a ", 3e5), strrep("x\n", 4.9e5),
    strrep("- it's\n", 1.4e5)
  )
  file <- withr::local_tempfile(fileext = ".yaml")
  # Seconds of processor time, which other work on the machine hardly changes.
  refused_in <- function(text) {
    writeLines(c("backfill: 1", "steps:", text), file)
    sum(system.time(
      expect_error(read_study(file), class = "backfill_error_study"),
      gcFirst = FALSE
    )[c("user.self", "sys.self")])
  }
  for (text in megabytes) {
    tenth <- refused_in(substr(text, 1, nchar(text) %/% 10))
    # A quadratic one takes a hundred times.
    expect_lt(
      refused_in(text), 30 * max(tenth, 0.1), label = substr(text, 1, 10)
    )
  }
})

test_that("a pipe or a device is not a source of a study", {
  skip_on_os("windows")
  folder <- withr::local_tempdir()
  system2("mkfifo", file.path(folder, "pipe"))
  file <- file.path(folder, "study.yaml")
  for (source in c("pipe", "/dev/zero")) {
    writeLines(c(
      "backfill: 1", "records:", "  a:", paste("    file:", source),
      "    when: day", "    measures: {kilos: flow}"
    ), file)
    expect_error(
      read_study(file, outside = TRUE), "line 4: .* pipe or a device",
      class = "backfill_error_study"
    )
  }
})

run_folder <- function(env = parent.frame()) {
  withr::local_envvar(
    R_USER_CACHE_DIR = withr::local_tempdir(.local_envir = env),
    .local_envir = env
  )
  folder <- withr::local_tempdir(.local_envir = env)
  file.copy(demo_file("inns.csv"), folder)
  writeLines(c(
    "backfill: 1", "records:", "  nights:", "    file: inns.csv",
    "    when: month", "    series: inn", "    measures: {guest_nights: flow}",
    "steps:", "  - roll_up: {every: month}", "    name: monthly",
    "report: {formats: md}"
  ), file.path(folder, "study.yaml"))
  folder
}

sums_below <- function(folder) {
  tools::md5sum(list.files(
    folder, all.files = TRUE, recursive = TRUE, full.names = TRUE
  ))
}

test_that("a run takes the place of a run alone, and loses nothing that others put there", {
  folder <- run_folder()
  file <- file.path(folder, "study.yaml")
  # A manifest of somebody else.
  web <- file.path(folder, "web")
  dir.create(web)
  writeLines("{\"name\": \"site\", \"backfill\": 1}",
             file.path(web, "manifest.json"))
  writeLines("mine", file.path(web, "index.html"))
  before <- sums_below(web)
  expect_error(
    run_study(file, web), "other things", class = "backfill_error_file"
  )
  expect_identical(sums_below(web), before)
  # A reader's own files stay, in folders of their own as well.
  out <- file.path(folder, "run")
  run_study(file, out)
  own <- file.path(out, c("comments.txt", "mine/.deep/a b.txt", ".hidden"))
  dir.create(dirname(own[[2]]), recursive = TRUE)
  for (one in own) writeLines(basename(one), one)
  before <- tools::md5sum(own)
  writeLines("old", file.path(out, "monthly.csv"))
  run_study(file, out)
  expect_identical(tools::md5sum(own), before)
  expect_gt(length(readLines(file.path(out, "monthly.csv"))), 10)
  # Where the new run would write over such a file it is refused by name.
  writeLines("mine", file.path(out, "growth.csv"))
  lines <- readLines(file)
  writeLines(append(
    lines, c("  - add_growth: {over: 1 year}", "    name: growth"), 10
  ), file)
  before <- sums_below(folder)
  expect_error(
    run_study(file, out), "growth.csv", class = "backfill_error_file"
  )
  expect_identical(sums_below(folder), before)
  # What a run no longer writes goes, as it was the run's own.
  unlink(file.path(out, "growth.csv"))
  run_study(file, out)
  writeLines(lines, file)
  run_study(file, out)
  expect_false(file.exists(file.path(out, "growth.csv")))
  # An input in the folder of an earlier run, and the study itself.
  file.copy(file.path(folder, "inns.csv"), file.path(out, "inns.csv"))
  writeLines(sub("inns.csv", "run/inns.csv", lines), file)
  before <- sums_below(folder)
  expect_error(run_study(file, out), "inns.csv", class = "backfill_error_file")
  file.copy(file, file.path(out, "own.yaml"))
  expect_error(
    run_study(file.path(out, "study.yaml"), out), class = "backfill_error_file"
  )
  unlink(file.path(out, "own.yaml"))
  expect_identical(sums_below(folder), before)
})

test_that("fractions of a second are kept with the records of a run", {
  folder <- run_folder()
  at <- as.POSIXct("2031-01-01 12:00:00", tz = "UTC") + c(0:7 / 4, 9.000001)
  writeLines(c("time,level", sprintf(
    "%s%s,%d", format(at, "%Y-%m-%dT%H:%M:%S"),
    sub("^0", "", sprintf("%.6f", as.numeric(at) %% 1)), 1:9
  )), file.path(folder, "readings.csv"))
  file <- file.path(folder, "study.yaml")
  writeLines(c(
    "backfill: 1", "records:", "  gauge:", "    file: readings.csv",
    "    when: time", "    measures: {level: level}", "steps:",
    "  - roll_up: {every: minute}", "    name: minutes"
  ), file)
  run <- run_study(file, file.path(folder, "run"))
  kept <- run_records(file.path(folder, "run"), "gauge")
  expect_equal(
    as.numeric(kept$time), as.numeric(study_result(run, "gauge")$time),
    tolerance = 1e-15
  )
  expect_equal(as.numeric(kept$time) - as.numeric(at), rep(0, 9))
})
