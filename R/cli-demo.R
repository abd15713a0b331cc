# `backfill demo`: the whole way from records to findings, on the data that
# comes along.

command_demo <- function() {
  list(
    name = "demo",
    inputs = character(),
    run = run_demo,
    about = paste(
      "Go the whole way on the sample data, all of it made up.",
      "Runs a study that reads five files of dated records, accounts for every",
      "row, rolls them up, and looks for growth, season, memory, links and odd",
      "periods. Writes tables, figures and a report."
    ),
    options = list(
      study = cli_option("NAME", paste(
        "The study to run: tarn (the default), or one of a single job:",
        paste0(in_words(setdiff(demo_studies(), "tarn"), 20), ".")
      )),
      out = cli_option(
        "FOLDER",
        "Where to write; made if it is not there. Default: backfill-demo."
      ),
      quiet = cli_flag("Print the table of results only.")
    ),
    examples = c(
      "backfill demo --out first-look",
      "backfill demo --study prices --out prices"
    ),
    wants = c(
      "Try it on the sample data" = "demo"
    )
  )
}

run_demo <- function(options, inputs) {
  folder <- options$out %||% "backfill-demo"
  check_demo_folder(folder)
  tell <- if (options$quiet) function(...) NULL else say
  name <- options$study %||% "tarn"
  check_one_of(name, demo_studies(), "study")
  file <- demo_file(paste0(name, "-study.yaml"))
  study <- read_study(file)
  lacking <- lacking_for_report()
  if (!is.null(lacking)) {
    study$report <- NULL
  }
  tell(paste0(study$title, "."), "")
  run <- with_spelling(
    c(out = "out"), with_progress(run_study(study, folder))
  )
  tell(demo_accounts(run), "")
  writeLines(result_lines(run))
  tell("", demo_ends(folder, file, lacking))
}

demo_studies <- function() {
  files <- list.files(
    system.file("extdata", package = "backfill"), "-study[.]yaml$"
  )
  sub("-study.yaml", "", files, fixed = TRUE)
}

# Why no report can be written, or NULL.
lacking_for_report <- function() {
  tryCatch(
    {
      check_report_type("report.html")
      NULL
    },
    backfill_error_package = function(cnd) rlang::cnd_message(cnd)
  )
}

# What became of the rows of each source.
demo_accounts <- function(run) {
  results <- facts(run)$results
  records <- Filter(is_records, results)
  wrapped(unlist(lapply(unname(records), function(x) {
    describe_intake(facts(x)$account)[[1]]
  })))
}

demo_ends <- function(folder, study, lacking) {
  file <- demo_file("crossings.csv")
  odd <- grepl("[^[:alnum:]_./-]", file)
  c(
    if (is.null(lacking)) {
      sprintf("Open the report: %s", file.path(folder, "report.html"))
    } else {
      paste("No report is written.", lacking)
    },
    sprintf("What was found, in words: %s", file.path(folder, "findings.txt")),
    glue("The study that says what is done: {study}"),
    "", "One command on one of the files:", "",
    sprintf("  backfill periods %s \\", if (odd) shQuote(file) else file),
    "    --when time --zone WET --measure market:flow:boardings \\",
    "    --measure tide:flow:boardings --every month --enough 0.95 \\",
    "    --out monthly.csv --figure monthly.png",
    "", "A page of a file of your own, and how it should be read:", "",
    "  backfill report FILE", "  backfill inspect FILE"
  )
}

check_demo_folder <- function(folder) {
  if (file.exists(folder) && !dir.exists(folder)) {
    abort_backfill(
      "file", "`out` is {folder}, which is a file; a folder is expected."
    )
  }
  if (!dir.exists(folder)) {
    made <- dir.create(folder, recursive = TRUE, showWarnings = FALSE)
    if (!made) {
      abort_backfill("file", "The folder {folder} cannot be made.")
    }
  }
}
