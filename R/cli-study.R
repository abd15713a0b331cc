# `backfill study`: a whole analysis from a file.

command_study <- function() {
  list(
    name = "study",
    inputs = c("ACTION", "FILE..."),
    run = run_study_command,
    about = paste(
      "Run a whole analysis from a study, a file that names records, steps and",
      "figures. ACTION is one of: new, to write a first study of a file of",
      "records; check, to see what is wrong with a study; run; diff, for what",
      "changed between two folders that run wrote; as-r, for the R script that",
      "makes the same tables; schema, for editors (FILE is - then)."
    ),
    options = list(
      out = cli_option(
        "FOLDER", "With run: where to write, as a whole, once all is made."
      ),
      fresh = cli_flag(
        "Make every step anew, also those that have not changed."
      ),
      "allow-outside" = cli_flag(paste(
        "Allow the study to read files outside its own folder, and addresses."
      )),
      format = cli_option(
        "FORMAT", "With diff: table (the default), csv or json."
      ),
      quiet = cli_flag("Print no messages.")
    ),
    notes = c(
      "A study reads files of its own folder alone, and runs no code.",
      "",
      "Examples:",
      "  backfill study new inns.csv > nights.yaml",
      "  backfill study check nights.yaml",
      "  backfill study run nights.yaml --out july",
      "  backfill study diff june july"
    )
  )
}

run_study_command <- function(options, inputs) {
  action <- inputs[[1]]
  actions <- c("new", "check", "run", "diff", "as-r", "schema")
  if (!action %in% actions) {
    stop_usage(
      sprintf("There is no action \"%s\".", action),
      i = sprintf("The actions are %s.", in_words(actions)),
      ">" = "See `backfill study --help`."
    )
  }
  if (action != "run") {
    refuse_options(options, c("out", "fresh"), "only run makes anything")
  }
  if (action %in% c("new", "schema", "diff")) {
    refuse_options(options, "allow-outside", "no study is read")
  }
  if (action == "diff") {
    return(diff_and_tell(options, inputs[-1]))
  }
  refuse_options(options, "format", "only diff gives a table in a format")
  if (length(inputs) > 2) {
    stop_usage(
      sprintf("%s takes one file.", action),
      i = sprintf("Given are %s.", in_words(inputs[-1]))
    )
  }
  file <- inputs[[2]]
  if (action == "new") {
    return(writeLines(study_starter(file)))
  }
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
      i = sprintf("Given is %s.", in_words(folders))
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
