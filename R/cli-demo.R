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
  if (file.exists(folder) && !dir.exists(folder)) {
    abort_backfill(
      "file",
      sprintf("`out` is %s, which is a file; a folder is expected.", folder),
      call = NULL
    )
  }
  if (
    !dir.exists(folder) && !dir.create(
      folder, recursive = TRUE, showWarnings = FALSE
    )
  ) {
    abort_backfill(
      "file", sprintf("The folder %s cannot be made.", folder), call = NULL
    )
  }
  tell <- if (options$quiet) function(...) NULL else say

  tell("Boardings at the two gates of a harbour, counted by the hour", "")
  sailings <- read_records(
    demo_file("sailings.csv"), when = "time", zone = "WET",
    measures = list(
      north = measure("flow", "boardings"), south = measure("flow", "boardings")
    )
  )
  show_demo(sailings, 0.95, "sailings-by-month", folder, tell)

  tell("", "Guest nights on four islands, counted by the month", "")
  nights <- read_records(
    demo_file("guest-nights.csv"), when = "month", series = "island",
    measures = list(guest_nights = measure("flow", "guest nights"))
  )
  show_demo(nights, 1, "guest-nights-by-month", folder, tell)

  file <- demo_file("sailings.csv")
  tell(
    "", "The first of the two on your own:", "",
    sprintf("  backfill periods %s \\", if (grepl("[^[:alnum:]_./-]", file)) {
      shQuote(file)
    } else {
      file
    }),
    paste(
      "    --when time --zone WET --measure north:flow:boardings --measure",
      "south:flow:boardings \\"
    ),
    "    --every month --enough 0.95 --out monthly.csv --figure monthly.png",
    "", "How a file of yours is to be read:", "", "  backfill inspect FILE"
  )
}

show_demo <- function(records, enough, name, folder, tell) {
  tell(intake_text(intake(records), 10, "set_aside() gives all."), "")
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
    "These are the last 3 months; written are all of them, and two figures:",
    paste0("  ", files)
  )
}
