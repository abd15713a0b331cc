# `backfill study`: a whole analysis from a file.

command_study <- function() {
  list(
    name = "study",
    inputs = "ACTION FILE...",
    run = run_study_command,
    about = paste(
      "Run a whole analysis from a study, a file that names records, steps and",
      "figures. ACTION is one of: draft, to write a first study of a file of",
      "records; check, to see what is wrong with a study; run; diff, for what",
      "changed between two folders that run wrote; as-r, for the R script that",
      "makes the same tables; schema, for editors (FILE is - then)."
    ),
    options = rlang::list2(
      out = cli_option(
        "FOLDER", "With run: where to write, as a whole, once all is made."
      ),
      format = cli_option(
        "FORMAT", "With diff: table (the default), csv or json."
      ),
      !!!study_options()
    ),
    examples = c(
      "backfill study draft inns.csv > inns.yaml",
      "backfill study run inns.yaml --out july"
    ),
    wants = c(
      "Repeat it all next month" = "study draft FILE"
    )
  )
}

# Of a study that is run, and of the files that one is drafted of.
study_options <- function() {
  rlang::list2(
    fresh = cli_flag("Recompute every step, also those that have not changed."),
    "allow-outside" = cli_flag(paste(
      "Allow the study to read files outside its own folder, and addresses."
    )),
    quiet = cli_flag("Print no messages."),
    # What is drafted is looked at whole.
    !!!options_of(
      "read_records", reading_map()[setdiff(names(reading_map()), "chunked")]
    )
  )
}

run_study_command <- function(options, inputs) {
  action <- inputs[[1]]
  actions <- c("draft", "check", "run", "diff", "as-r", "schema")
  if (!action %in% actions) {
    stop_usage(
      "There is no action \"{action}\".",
      i = if (file.exists(action)) {
        "`backfill study draft {action}` drafts a study of it."
      },
      i = "The actions are {in_words(actions)}.",
      ">" = "See `backfill study --help`."
    )
  }
  if (length(inputs) < 2) {
    stop_usage(
      "{action} needs a file, and none is given.",
      ">" = "See `backfill study --help`."
    )
  }
  if (action != "run") {
    refuse_options(options, c("out", "fresh"), "only run makes anything")
  }
  if (action %in% c("draft", "schema", "diff")) {
    refuse_options(options, "allow-outside", "no study is read")
  }
  if (action != "draft") {
    refuse_options(options, names(reading_map()), "only draft reads as told")
  }
  if (action == "diff") {
    return(diff_and_tell(options, inputs[-1]))
  }
  refuse_options(options, "format", "only diff gives a table in a format")
  if (action == "draft") {
    return(writeLines(enc2utf8(draft_asked(options, inputs[-1]))))
  }
  if (length(inputs) > 2) {
    stop_usage(
      "{action} takes one file.",
      i = "Given are {in_words(inputs[-1])}."
    )
  }
  file <- inputs[[2]]
  if (action == "schema") {
    return(writeLines(study_schema()))
  }
  study <- with_spelling(
    c(outside = "allow-outside"), read_study(file, options[["allow-outside"]])
  )
  switch(
    action, check = say_checked(study, options),
    "as-r" = writeLines(study_script(study)),
    run = run_and_tell(study, options)
  )
}

draft_asked <- function(options, files) {
  once <- files == "-" | read_once(files)
  if (any(once)) {
    stream <- sub("^-$", "Standard input", files[once][[1]])
    stop_usage(
      "{stream} can be read but once, which a study does not do.",
      ">" = "Keep it in a file first."
    )
  }
  lines_of_draft(drafted(inspect_as_told(options, files)), basename(files))
}

say_checked <- function(study, options) {
  if (!options$quiet) {
    say(sprintf("%s is in order.", basename(study$file)))
  }
  print(study)
}

run_and_tell <- function(study, options) {
  done <- with_spelling(
    c(out = "out"),
    with_progress(run_study(study, out = options$out, fresh = options$fresh))
  )
  if (!options$quiet) {
    say(wrapped(describe(done)), "")
  }
  writeLines(result_lines(done))
}

diff_and_tell <- function(options, folders) {
  if (length(folders) != 2) {
    stop_usage(
      "diff takes the folders of two runs, the earlier one first.",
      i = "Given is {in_words(folders)}."
    )
  }
  format <- check_one_of(
    options$format %||% "table", c("table", "csv", "json"), "format"
  )
  found <- run_changes(folders[[1]], folders[[2]])
  if (!options$quiet) {
    say(wrapped(describe(found)), "")
  }
  if (nrow(found) > 0 || format != "table") {
    to_output(found, format, function() result_lines(found))
  }
}
