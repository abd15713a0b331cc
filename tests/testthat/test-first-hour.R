# What a newcomer meets: help, slips, a file of one's own without an option.

demo_folder <- function(env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  files <- list.files(dirname(demo_file("inns.csv")), full.names = TRUE)
  file.copy(files, folder)
  folder
}

# Two mills, four years of days, 2% of them missing; one fell by 40% in May.
mills_file <- function(folder, days = 1461) {
  set.seed(4)
  day <- seq(as.Date("2028-01-01"), by = "day", length.out = days)
  year <- sin(2 * pi * as.POSIXlt(day)$yday / 365)
  mill <- function(name, base) {
    data.frame(
      day, mill = name, sacks = stats::rpois(days, base * (1 + 0.4 * year))
    )
  }
  x <- rbind(mill("Kell", 60), mill("Brod", 35))
  fallen <- x$mill == "Kell" & format(x$day, "%Y-%m") == "2031-05"
  x$sacks[fallen] <- round(0.6 * x$sacks[fallen])
  x <- x[-sample(nrow(x), nrow(x) %/% 50), ]
  utils::write.csv(x, file.path(folder, "mills.csv"), row.names = FALSE)
  file.path(folder, "mills.csv")
}

test_that("help names each command, fits a screen, and has every option when asked", {
  main <- backfill_cli("--help")$out
  expect_lte(length(main), 45)
  known <- backfill:::commands()
  for (name in names(known)) {
    expect_match(main, sprintf("backfill %s\\b", name), all = FALSE)
    short <- command_line(name, "--help", dir = ".")
    expect_identical(short$status, 0L)
    expect_lte(length(short$out), 60, label = name)
    all <- command_line(name, "--help", "all", dir = ".")$out
    told <- sub("^  --([a-z-]+) .*", "\\1", grep("^  --", all, value = TRUE))
    expect_setequal(told, names(known[[name]]$options))
    if (name != "periods") {
      expect_identical(command_line("help", name, dir = ".")$out, short$out)
    }
  }
  for (topic in c("reading", "periods", "output")) {
    help <- command_line("help", topic, dir = ".")$out
    expect_match(help, "^  --", all = FALSE)
  }
  expect_identical(command_line("help", "readign", dir = ".")$status, 2L)
})

test_that("every example and every line of the help does what it says", {
  folder <- demo_folder()
  runs <- function(line) {
    words <- scan(text = line, what = "", quiet = TRUE)
    to <- match(">", words, length(words) + 1)
    ran <- do.call(command_line, c(as.list(words[2:(to - 1)]), dir = folder))
    expect_identical(
      ran$status, 0L, label = paste(c(line, ran$err), collapse = "\n")
    )
    if (to < length(words)) {
      writeLines(ran$out, file.path(folder, words[[to + 1]]))
    }
  }
  known <- backfill:::commands()
  wants <- paste("backfill", unlist(lapply(known, `[[`, "wants")))
  wants <- sub("TABLE", "growth.csv", sub("FILE", "inns.csv", wants))
  wants <- sub("weekend", "quarter", wants)
  wants[grepl("trace", wants)] <-
    "backfill trace growth.csv --period 2031-04 --of-series Hearth"
  runs("backfill growth inns.csv --measure guest_nights:flow --out growth.csv")
  examples <- unlist(lapply(known, `[[`, "examples"))
  examples <- sub(" --figure [^ ]+", "", examples)
  # The demo, reports and figures have tests of their own.
  slow <- "^backfill (demo|report)"
  lines <- grep(slow, unique(c(examples, wants)), value = TRUE, invert = TRUE)
  for (line in lines) runs(line)
})

test_that("a near miss is told what to use", {
  folder <- demo_folder()
  meant <- list(
    c("sesaon inns.csv", "Did you mean `backfill season`"),
    c("forecast inns.csv", "backfill season FILE --project"),
    c("season inns.csv --forecast 3", "backfill season FILE --project"),
    c("season inns.csv --deseasonalise", "--adjust"),
    c("growth inns.csv --adjust", "an option of `backfill season`"),
    c("periods inns.csv --plot x.png", "Here it is --figure"),
    c("describe inns.csv --shifts 1", "--shifts takes no value; given is 1"),
    c("study inns.csv --quiet", "backfill study draft inns.csv"),
    c("flags inns.csv --agaisnt season", "Did you mean --against")
  )
  for (one in meant) {
    words <- strsplit(one[[1]], " ")[[1]]
    ran <- do.call(command_line, c(as.list(words), dir = folder))
    expect_identical(ran$status, 2L, label = one[[1]])
    expect_match(
      paste(ran$err, collapse = " "), one[[2]], fixed = TRUE, label = one[[1]]
    )
  }
  expect_error(
    autoplot(series_summary(roll_up(inns(), every = "month")), column = "x"),
    "column"
  )
})

test_that("a file goes to a page in one command, and the fall in it is found", {
  withr::local_envvar(BACKFILL_STORE = withr::local_tempdir())
  folder <- withr::local_tempdir()
  file <- mills_file(folder)
  ran <- command_line("report", "mills.csv", dir = folder)
  expect_identical(ran$status, 0L, label = paste(ran$err, collapse = "\n"))
  page <- readLines(file.path(folder, "mills.html"), warn = FALSE)
  told <- grep("months judged is flagged", page, value = TRUE, fixed = TRUE)
  expect_match(
    told, paste(
      "In May 2031 sacks of Kell stood at .* below .* expected from its past.",
      "1 of [0-9]+ months judged is flagged; chance alone would flag about"
    ),
    all = FALSE
  )
  expect_match(
    paste(ran$err, collapse = " "), "backfill study draft mills.csv",
    fixed = TRUE
  )
  # What the draft says is what was run.
  draft <- command_line("study", "draft", "mills.csv", dir = folder)
  expect_identical(draft$out, study_draft(file))
  run <- first_look(file)
  expect_identical(
    as.character(study_result(run, "flags")$against[96]), "season"
  )
  writeLines(draft$out, file.path(folder, "look.yaml"))
  expect_identical(
    names(read_study(file.path(folder, "look.yaml"))$steps), run$name[-1]
  )
})

test_that("a draft leaves out what the data do not carry, and says why", {
  set.seed(2)
  folder <- withr::local_tempdir()
  short <- file.path(folder, "short.csv")
  utils::write.csv(data.frame(
    day = as.Date("2031-01-01") + 0:299, sales = stats::rpois(300, 50)
  ), short, row.names = FALSE)
  draft <- study_draft(short, measures = c(sales = "flow"))
  expect_match(draft, "roll_up: \\{every: week\\}", all = FALSE)
  expect_match(draft, "# No seasonal index: ", all = FALSE)
  expect_no_match(draft, "seasonal_index|Give it more periods")
  expect_match(draft, "Over one period", all = FALSE)
  # Two orders of dates are for the user: a draft says so, a page is refused.
  odd <- file.path(folder, "odd.csv")
  utils::write.csv(data.frame(
    day = sprintf("%02d/%02d/2031", rep(1:12, 12), rep(1:12, each = 12)),
    sales = stats::rpois(144, 50)
  ), odd, row.names = FALSE)
  expect_match(study_draft(odd), "# To decide: ", all = FALSE)
  expect_identical(
    command_line("report", "odd.csv", dir = folder)$status, 2L
  )
  expect_false(file.exists(file.path(folder, "odd.html")))
})

test_that("a draft keeps units and ratios, and of one row has what that carries", {
  folder <- demo_folder()
  draft <- command_line(
    "study", "draft", "inns.csv", "--measure", "guest_nights:flow:nights",
    "--measure", "bed_nights:flow", "--measure",
    "used:ratio:guest_nights/bed_nights", dir = folder
  )$out
  writeLines(draft, file.path(folder, "draft.yaml"))
  made <- study_result(
    run_study(read_study(file.path(folder, "draft.yaml"))), "rolled"
  )
  expect_identical(facts(made)$measures$guest_nights$unit, "nights")
  expect_identical(facts(made)$measures$used$per, "bed_nights")
  one <- file.path(folder, "one.csv")
  writeLines(c("day,sales", "2031-01-01,5"), one)
  expect_match(study_draft(one), "# No growth: ", all = FALSE)
  expect_identical(study_result(first_look(one), "rolled")$value, 5)
  ran <- command_line("report", "--database", "isles.sqlite", dir = folder)
  expect_identical(ran$status, 2L)
  expect_match(ran$err, "no option --database", all = FALSE)
})

test_that("the period that suits has 24 of it, and is none shorter than the records'", {
  suits <- function(by, count) {
    start <- as.POSIXct("1970-01-01", tz = "UTC")
    when <- seq(start, by = by, length.out = count)
    if (!by %in% c("hour", "15 min")) when <- as.Date(when)
    backfill:::suited_period(records_of(when, x = seq_len(count)))
  }
  expect_identical(suits("day", 1500), "month")
  expect_identical(suits("day", 300), "week")
  expect_identical(suits("day", 90), "day")
  expect_identical(suits("day", 10), "day")
  expect_identical(suits("hour", 80), "hour")
  expect_identical(suits("15 min", 2000), "hour")
  expect_identical(suits("week", 100), "week")
  expect_identical(suits("month", 40), "month")
  expect_identical(suits("month", 20), "month")
  expect_identical(suits("3 months", 40), "quarter")
  expect_identical(suits("year", 20), "year")
  expect_identical(suits("month", 660), "year")
  expect_identical(suits("day", 1), "day")
})

test_that("shells complete commands and options, and the manual has all of them", {
  folder <- withr::local_tempdir()
  files <- backfill:::write_shell_files(folder)
  completed <- function(...) {
    words <- c("backfill", ...)
    script <- sprintf(
      "source %s; COMP_WORDS=(%s); COMP_CWORD=%d; _backfill; echo ${COMPREPLY[@]}",
      files[[1]], paste(shQuote(words), collapse = " "), length(words) - 1
    )
    strsplit(processx::run("bash", c("-c", script))$stdout, "[ \n]+")[[1]]
  }
  expect_identical(completed("sea"), "season")
  expect_identical(completed("season", "inns.csv", "--adj"), "--adjust")
  expect_true("--every" %in% completed("flags", "--"))
  manual <- readLines(files[[4]])
  told <- unlist(regmatches(manual, gregexpr("--[a-z-]+", manual)))
  options <- unlist(lapply(backfill:::commands(), function(command) {
    names(command$options)
  }))
  expect_identical(setdiff(paste0("--", options), told), character())
  fish <- readLines(files[[3]])
  expect_true(any(grepl("from season' -l adjust$", fish)))
  expect_identical(readLines(files[[2]])[[1]], "#compdef backfill")
})

test_that("records by the quarter and the year need no length of periods", {
  folder <- withr::local_tempdir()
  tried <- list(
    year = sprintf("%d", 1990:2025),
    quarter = paste0(rep(2015:2025, each = 4), "-Q", 1:4)
  )
  for (noun in names(tried)) {
    when <- tried[[noun]]
    utils::write.csv(
      data.frame(when, sacks = 100 + seq_along(when) %% 7),
      file.path(folder, "own.csv"), row.names = FALSE
    )
    made <- command_line(
      "growth", "own.csv", "--measure", "sacks:flow", dir = folder
    )
    expect_identical(made$status, 0L, label = noun)
    expect_match(
      paste(made$out, made$err, collapse = " "),
      sprintf("%d %ss from", length(when), noun)
    )
  }
})

test_that("a shell is told shell lines, where R is told functions", {
  folder <- withr::local_tempdir()
  file.copy(demo_file(c("inns.csv", "crossings.csv")), folder)
  shell <- function(...) {
    said <- command_line(..., dir = folder)$err
    gsub("\\s+", " ", paste(said, collapse = " "))
  }
  expect_match(shell(
    "links", "inns.csv", "--when", "month", "--measure", "guest_nights:flow",
    "--series", "inn"
  ), "Take it out first with `backfill season --adjust`.", fixed = TRUE)
  expect_match(
    shell("season", "crossings.csv", "--every", "2 days"),
    "`backfill lags --cycles` looks for one.", fixed = TRUE
  )
  expect_error(
    seasonal_index(roll_up(crossings(), "2 days")), "suggest_cycle() looks",
    fixed = TRUE
  )
  # Each verb that a sentence of a result names has such a line.
  for (verb in c("deseasonalise", "suggest_cycle", "add_remainder")) {
    expect_match(backfill:::line_of_verb(verb), "^backfill [a-z]+ --[a-z]+$")
  }
  expect_identical(backfill:::line_of_verb("seasonal_index"), "backfill season")
  expect_null(backfill:::line_of_verb("as_periods"))
  # A verb that is what a command gives by itself is offered by it.
  verbs <- backfill:::plain_verbs
  for (name in setdiff(names(verbs), c("inspect", "trace"))) {
    of <- lapply(backfill:::one_command(name)$options, function(one) one$of[1])
    expect_true(verbs[[name]] %in% unlist(of), label = name)
  }
})
