# `backfill report`: a page of what a study finds.

command_report <- function() {
  list(
    name = "report",
    inputs = "STUDY",
    run = run_report_command,
    about = paste(
      "Run a study and write a page of what was read and found: sentences,",
      "figures that answer to the pointer, tables that sort and filter."
    ),
    options = list(
      out = cli_option(
        "FILE", paste(
          "Where to: .html (one file that needs nothing else), .md or .pdf by",
          "its ending. Default: the study's name with .html."
        )
      ),
      title = cli_option("TEXT", "The title. Default: that of the study."),
      fresh = cli_flag(
        "Make every step anew, also those that have not changed."
      ),
      "allow-outside" = cli_flag(paste(
        "Allow the study to read files outside its own folder, and addresses."
      )),
      quiet = cli_flag("Print no messages.")
    ),
    notes = c(
      "The page is written once all is made, and replaces a former one.",
      "",
      "Examples:",
      "  backfill report nights.yaml",
      "  backfill report nights.yaml --out nights.pdf"
    )
  )
}

run_report_command <- function(options, inputs) {
  study <- with_spelling(
    c(outside = "allow-outside"),
    read_study(inputs[[1]], options[["allow-outside"]])
  )
  file <- options$out %||%
    paste0(sub("[.]ya?ml$", "", inputs[[1]], ignore.case = TRUE), ".html")
  with_spelling(c(file = "out"), {
    check_report_type(file)
    check_output(file, c(study$file, unlist(lapply(
      study$sources, full_paths, study
    ))))
  })
  run <- with_progress(run_study(study, fresh = options$fresh))
  with_spelling(
    c(file = "out"),
    doing("Writing the report", write_report(run, file, options$title))
  )
  if (!options$quiet) {
    say(wrapped(describe(run)), sprintf("Written: %s.", file))
  }
}
