# `backfill demo`: the whole way from records to findings, on the data that
# comes along.

command_demo <- function() {
  list(
    name = "demo",
    inputs = character(),
    run = run_demo,
    about = paste(
      "Go the whole way on the sample data: read a file of dated records,",
      "account for every row, roll it up to months,",
      "add growth and a moving average, and write a table and figures. All",
      "data is made up."
    ),
    options = list(
      out = cli_option(
        "FOLDER",
        "Where to write; made if it is not there. Default: backfill-demo."
      ),
      quiet = cli_flag("Print the tables only.")
    ),
    notes = "Example:\n  backfill demo --out first-look"
  )
}

run_demo <- function(options, inputs) {
  folder <- options$out %||% "backfill-demo"
  check_demo_folder(folder)
  tell <- if (options$quiet) function(...) NULL else say

  tell("Boardings on three ferry lines, counted by the hour", "")
  boardings <- measure("flow", "boardings")
  crossings <- read_records(
    demo_file("crossings.csv"), when = "time", zone = "WET",
    measures = list(
      market = boardings, tide = boardings, excursion = boardings
    )
  )
  show_demo(crossings, 0.95, "crossings-by-month", folder, tell)

  tell("", "Guest nights at four inns, counted by the month", "")
  nights <- read_records(
    demo_file("inns.csv"), when = "month", series = "inn",
    measures = list(guest_nights = measure("flow", "guest nights"))
  )
  show_demo(nights, 1, "inns-by-month", folder, tell)

  file <- demo_file("crossings.csv")
  odd <- grepl("[^[:alnum:]_./-]", file)
  tell(
    "", "The first of the two on your own:", "",
    sprintf("  backfill periods %s \\", if (odd) shQuote(file) else file),
    "    --when time --zone WET --measure market:flow:boardings \\",
    "    --measure tide:flow:boardings --measure excursion:flow:boardings \\",
    "    --every month --enough 0.95 --out monthly.csv --figure monthly.png",
    "", "To find out how a file of your own should be read:", "",
    "  backfill inspect FILE"
  )
}

check_demo_folder <- function(folder) {
  if (file.exists(folder) && !dir.exists(folder)) {
    abort_backfill(
      "file",
      sprintf("`out` is %s, which is a file; a folder is expected.", folder),
      call = NULL
    )
  }
  if (!dir.exists(folder)) {
    made <- dir.create(folder, recursive = TRUE, showWarnings = FALSE)
    if (!made) {
      abort_backfill(
        "file", sprintf("The folder %s cannot be made.", folder), call = NULL
      )
    }
  }
}

show_demo <- function(records, enough, name, folder, tell) {
  tell(intake_text(account(records), 10, "rows_set_aside() gives all."), "")
  periods <- add_calculations(
    roll_up(records, every = "month", enough = enough), list()
  )
  tell(wrapped(spelled(describe(periods))), "")
  latest <- sort(unique(periods$period), decreasing = TRUE)[1:3]
  writeLines(periods_table(periods, which(periods$period %in% latest)))
  files <- file.path(folder, paste0(name, c(".csv", ".png", "-growth.png")))
  write_periods(periods, files[[1]])
  write_figure(autoplot(periods), files[[2]])
  write_figure(autoplot(periods, of = "growth_1_year"), files[[3]])
  tell(
    "",
    "These are the last 3 months. All of them, and two figures, are written to:",
    paste0("  ", files)
  )
}
