#' A first study of a file
#'
#' `study_draft()` gives the text of a study for files of dated records: what an
#' analyst does within the first hour, with comments that say what was found,
#' what to look at, and why a step was left out. `first_look()` runs it.
#'
#' The files are read as [inspect_file()] finds. They are rolled up to the
#' period that suits: the month where there are 24 of them, else the longest
#' below it of which there are 24, but none shorter than what records come by.
#' A seasonal index is made where positions of the cycle differ at
#' \eqn{p < 0.01} in a series (see [seasonal_index()]).
#'
#' @param file Path of the file, or of several, or a pattern, as in
#'   [read_records()].
#' @param ... Arguments of [read_records()] that are known, such as `measures`.
#' @return The lines of a study; of `first_look()` a run, see [run_study()].
#' @section Errors: As those of [inspect_file()]; of class
#'   `backfill_error_study` where the file cannot be read as found.
#' @seealso [read_study()].
#' @examples
#' writeLines(study_draft(demo_file("inns.csv")))
#' first_look(demo_file("inns.csv"))
#' @export
study_draft <- function(file, ...) {
  check_given()
  lines_of_draft(drafted(inspect_file(file, ...)), basename(file))
}

#' @rdname study_draft
#' @export
first_look <- function(file, ...) {
  check_given()
  look_at(inspect_file(file, ...))
}

# The draft of what was found, run. It is kept nowhere; its files are read
# where they lie.
look_at <- function(found) {
  path <- file.path(tempfile("look-"), "first-look.yaml")
  dir.create(dirname(path))
  full <- ifelse(
    is_address(found$file), found$file,
    normalizePath(found$file, mustWork = FALSE)
  )
  writeLines(lines_of_draft(drafted(found), full), path, useBytes = TRUE)
  run_study(read_study(path, outside = TRUE))
}

# What a draft says: list(found, every, grows, season, yearly, lacking), where
# `grows` says whether any period can be compared with the one before, `season`
# is the form of a season that was found, and why, `lacking` why there is none.
drafted <- function(found) {
  if (is.null(found$records)) {
    abort_backfill(
      "study", "{in_words(basename(found$file))} cannot be read.",
      i = "{found$problem}"
    )
  }
  every <- suited_period(found$records)
  x <- roll_up(
    found$records, every = every,
    falls = if (length(found$falls) > 0) as.list(found$falls)
  )
  grown <- add_growth(x, name = unused_name("growth", x))
  grows <- !all(is.na(grown[[ncol(grown)]]))
  c(list(found = found, every = every, grows = grows), season_in_draft(x))
}

season_in_draft <- function(x) {
  index <- tryCatch(
    suppressWarnings(
      seasonal_index(x, form = "auto"), classes = "backfill_warning"
    ),
    backfill_error = function(cnd) sub("\n.*", "", conditionMessage(cnd))
  )
  if (is.character(index)) {
    return(list(season = NULL, lacking = index))
  }
  p <- facts(index)$tests$season_p
  found <- any(p < 0.01, na.rm = TRUE)
  list(
    season = if (found) facts(index)[c("form", "form_said")],
    yearly = facts(index)$cycle$words == "1 year",
    lacking = if (!found) {
      "the positions of the cycle differ by no more than chance."
    }
  )
}

lines_of_draft <- function(draft, files) {
  found <- draft$found
  files <- unname(files)
  c(
    "backfill: 1",
    sprintf("title: A first look at %s", yaml_text(in_words(basename(files)))),
    "", "records:", sprintf("  %s:", records_name(files[[1]])),
    yaml_lines("file", files, "    "),
    unlist(lapply(names(found$arguments), function(argument) {
      yaml_lines(argument, found$arguments[[argument]], "    ")
    })),
    comment_lines(c(doubts_of(found), paste(
      "Check the kind of each measure: a flow is added up, a level averaged, a",
      "counter only rises."
    )), "    "),
    "", "steps:", steps_of_draft(draft), "", figures_of_draft(draft), "",
    "report: true"
  )
}

doubts_of <- function(found) {
  sub("^For you to decide: ", "To decide: ", found$notes)
}

records_name <- function(file) {
  name <- gsub("^[^a-z]+|[^a-z0-9]+$", "", gsub(
    "[^a-z0-9]+", "_", tolower(sub("[.].*$", "", basename(file)))
  ))
  if (nzchar(name)) make.names(name) else "records"
}

comment_lines <- function(text, indent) {
  unlist(lapply(text, function(one) {
    strwrap(one, 78, prefix = paste0(indent, "# "))
  }))
}

step_lines <- function(verb, name, arguments = NULL, comment = NULL) {
  c(
    comment_lines(comment, "  "),
    sprintf(
      "  - %s:%s", verb,
      if (is.null(arguments)) "" else sprintf(" {%s}", arguments)
    ),
    if (verb != "roll_up") "    from: rolled",
    sprintf("    name: %s", name)
  )
}

falls_of_draft <- function(falls) {
  if (length(falls) > 0) sprintf("falls: {%s}", paste(
    vapply(names(falls), yaml_text, ""), falls, sep = ": ", collapse = ", "
  ))
}

steps_of_draft <- function(draft) {
  c(
    step_lines("roll_up", "rolled", paste(c(
      sprintf("every: %s", draft$every), falls_of_draft(draft$found$falls)
    ), collapse = ", ")),
    growth_of_draft(draft),
    if (!is.null(draft$season)) {
      c(
        step_lines(
          "seasonal_index", "season", sprintf("form: %s", draft$season$form),
          draft$season$form_said
        ),
        step_lines(
          "deseasonalise", "adjusted", "index: season",
          comment = "The values without the season."
        )
      )
    } else {
      comment_lines(paste("No seasonal index:", draft$lacking), "  ")
    },
    step_lines("flag_periods", "flags", comment = paste(
      "Compared with the season where one was known by then, else with the",
      "last periods."
    )),
    step_lines("latest", "latest"),
    step_lines("gaps", "gaps", comment = "What is missing.")
  )
}

growth_of_draft <- function(draft) {
  if (!draft$grows) {
    return(comment_lines(paste(
      "No growth: no period has a value above zero before it to be compared",
      "with."
    ), "  "))
  }
  yearly <- !is.null(draft$season) && draft$yearly
  step_lines(
    "add_growth", "growth", if (yearly) "over: 1 year",
    if (yearly) {
      "Over a year, so that the season does not count as growth."
    } else {
      "Over one period, as no season of a year was found."
    }
  )
}

figures_of_draft <- function(draft) {
  c("figures:", sprintf("  - of: %s", c(
    "rolled", if (draft$grows) "growth",
    if (!is.null(draft$season)) c("season", "adjusted"), "flags"
  )))
}
# A key with its value: a scalar, a list of them, or a map of keys.
yaml_lines <- function(name, value, indent) {
  key <- paste0(indent, yaml_text(name), ":")
  if (inherits(value, "backfill_measure")) {
    value <- stated_parts(value)
    if (length(value) == 1) value <- value$kind
  }
  if (!is.null(names(value))) {
    inner <- Map(yaml_lines, names(value), value, paste0(indent, "  "))
    return(c(key, unlist(inner, use.names = FALSE)))
  }
  texts <- yaml_text(unlist(value))
  paste(key, if (length(texts) == 1) {
    texts
  } else {
    sprintf("[%s]", paste(texts, collapse = ", "))
  })
}

# A scalar, in quotation marks where YAML would read it as something else.
yaml_text <- function(x) {
  if (is.logical(x)) {
    return(ifelse(x, "true", "false"))
  }
  if (is.numeric(x)) {
    return(plain_format(x))
  }
  plain <- grepl("^[[:alpha:]][[:alnum:]_./ -]*$", x) & !grepl(" $", x) &
    !tolower(x) %in% c("true", "false", "null", "yes", "no", "on", "off")
  ifelse(plain, unname(x), encodeString(unname(x), quote = "\""))
}
