# What a study draws, and the formats of what it leaves.

# The formats that tables are written in.
planned_tables <- function(found, faults) {
  for (one in setdiff(found, setdiff(table_types, c("json", "jsonl")))) {
    faults$add(list("tables"), sprintf(
      "\"%s\" is not a format of tables: they are csv, xlsx and parquet.", one
    ))
  }
  if (!is.null(found) && length(found) == 0) {
    faults$add(list("tables"), "\"tables\" names no format.")
  }
  as.character(unlist(found %||% "csv"))
}

# list(formats, sections) of the report, NULL where none is asked for.
planned_report <- function(found, steps, faults) {
  if (is.null(found) || isFALSE(found)) {
    return(NULL)
  }
  if (!isTRUE(found) && (!is.list(found) || is.null(names(found)))) {
    faults$add(list("report"), paste(
      "\"report\" must be true, or a map such as {formats: [html, pdf]}."
    ))
    return(NULL)
  }
  asked <- if (isTRUE(found)) list() else found
  check_keys(asked, c("formats", "sections"), list("report"), faults)
  check_choice <- function(key, known) {
    for (one in setdiff(unlist(asked[[key]]), known)) {
      faults$add(
        list("report", key), sprintf(
          "There is no %s \"%s\".", sub("s$", "", key), one
        ),
        nearest_known(one, known)
      )
    }
    unique(unlist(asked[[key]]))
  }
  named <- vapply(Filter(function(step) step$named, steps), `[[`, "", "name")
  list(
    formats = check_choice("formats", c("html", "md", "pdf")) %||% "html",
    sections = check_choice("sections", named)
  )
}

planned_figures <- function(found, steps, events, allowed) {
  if (!is.null(events)) {
    events <- study_file(events, list("events"), allowed)
  }
  if (is.null(found)) {
    return(list())
  }
  # A list of words comes as a vector.
  if (is_text_value(found)) {
    found <- as.list(found)
  }
  if (!is.list(found) || !is.null(names(found))) {
    allowed$faults$add(
      list("figures"), "\"figures\" must be a list, each figure after a dash."
    )
    return(list())
  }
  figures <- list()
  for (at in seq_along(found)) {
    figure <- planned_figure(
      found[[at]], list("figures", at), steps, names(figures), events, allowed
    )
    if (!is.null(figure)) figures[[figure$name]] <- figure
  }
  figures
}

planned_figure <- function(found, path, steps, taken, events, allowed) {
  if (rlang::is_string(found)) {
    found <- list(of = found)
  }
  of <- found[["of"]]
  if (!rlang::is_string(of) || !of %in% names(steps)) {
    allowed$faults$add(
      path, "A figure must name a step: `of`.",
      if (rlang::is_string(of)) nearest_known(of, names(steps))
    )
    return(NULL)
  }
  name <- found$name %||% of
  if (!check_study_name(name, path, taken, allowed$faults)) {
    return(NULL)
  }
  arguments <- found[setdiff(names(found), c("of", "name", "column"))]
  values <- lapply(lapply(arguments, plain_value), as_code)
  if (!is.null(found$column)) values$of <- found$column
  files <- NULL
  if (!is.null(values$events)) {
    files <- study_file(values$events, c(path, "events"), allowed)
  } else if (has_dates(steps[[of]], values)) {
    files <- events
  }
  if (!is.null(files)) {
    values$events <- rlang::call2("read.csv", files)
  }
  new_step(
    name, rlang::call2("autoplot", as.symbol(of), !!!values), of, files, path
  )
}

# Whether events can be marked in a figure of a step: in those of periods along
# time.
has_dates <- function(step, values) {
  verb <- as.character(step$call[[1]])
  identical(step_verbs()[[verb]]$gives, "periods") && verb != "project" &&
    (values$type %||% "lines") %in% c("lines", "bars")
}
