# `backfill report`: a page of what a study finds.

command_report <- function() {
  list(
    name = "report",
    inputs = "FILE...",
    run = run_report_command,
    about = paste(
      "Write a page of what a file holds, or of what a study finds.",
      "FILE is a study (.yaml), or files of dated records, of which a study is",
      "drafted as `backfill study draft` does. The page has sentences, figures",
      "that respond to the pointer, and tables that sort and filter. It is",
      "written once all is made, and replaces a former one."
    ),
    options = rlang::list2(
      out = cli_option(
        "FILE", paste(
          "Where to: .html (one file that needs nothing else), .md or .pdf by",
          "its ending. Default: the name of FILE with .html, beside it."
        )
      ),
      title = cli_option("TEXT", "The title. Default: that of the study."),
      since = cli_option(
        "FOLDER", paste(
          "Begin with what changed since an earlier run of the study, by its",
          "folder."
        )
      ),
      !!!study_options()
    ),
    examples = c(
      "backfill report inns.csv",
      "backfill report inns.yaml --out inns.pdf"
    ),
    wants = c(
      "Make a page of a file" = "report FILE"
    )
  )
}

run_report_command <- function(options, inputs) {
  of_study <- length(inputs) == 1 && grepl("[.]ya?ml$", inputs, TRUE)
  if (of_study) {
    refuse_options(
      options, names(reading_map()), "a study says how its files are read"
    )
  } else {
    refuse_options(
      options, c("fresh", "allow-outside", "since"), "a first look has no study"
    )
  }
  file <- options$out %||% page_beside(inputs[[1]])
  run <- if (of_study) {
    run_of_study(options, inputs, file)
  } else {
    run_of_look(options, inputs, file)
  }
  with_spelling(c(file = "out", old = "since"), {
    changes <- if (!is.null(options$since)) {
      run_changes(options$since, facts(run)$out)
    }
    doing("Writing the report", write_report(
      run, file, options$title, changes = changes
    ))
  })
  # The folder of what was compared goes with the command.
  if (!is.null(options$since)) attr(run, "backfill")$out <- NULL
  if (!options$quiet) {
    say(
      wrapped(c(describe(run), findings_in_short(run))),
      sprintf("Written: %s.", file)
    )
  }
}

# The page of what is no file here lies where one is.
page_beside <- function(input) {
  here <- if (is_address(input) || input == "-") basename(input) else input
  stem <- gsub("[*?]+", "_", sub("[.][a-z0-9]+$", "", here, TRUE))
  paste0(if (stem == "-") "standard-input" else stem, ".html")
}

check_report <- function(file, read) {
  with_spelling(c(file = "out"), {
    check_report_type(file)
    check_output(file, read)
  })
}

run_of_study <- function(options, input, file) {
  study <- with_spelling(
    c(outside = "allow-outside"), read_study(input, options[["allow-outside"]])
  )
  check_report(file, c(study$file, unlist(lapply(
    study$sources, full_paths, study
  ))))
  # Two runs are compared by their folders.
  out <- NULL
  if (!is.null(options$since)) {
    out <- tempfile("run-")
    study["report"] <- list(NULL)
  }
  with_progress(run_study(study, out, fresh = options$fresh))
}

# The study is drafted and run, and how to keep it told.
run_of_look <- function(options, files, file) {
  check_report(file, files)
  found <- found_and_told(options, input_files(files))
  if (!options$quiet) {
    say(sprintf(
      "To keep and change what is done: backfill study draft %s > look.yaml",
      paste(vapply(files, quoted_word, ""), collapse = " ")
    ), "")
  }
  with_progress(look_at(found))
}
