#' A first study of a file
#'
#' The text of a study for a file of dated records, from what [inspect_file()]
#' finds in it, with comments that say what to look at and to change.
#'
#' @param file Path of the file, as the study will name it.
#' @return The lines of a study.
#' @section Errors: As those of [inspect_file()].
#' @seealso [read_study()].
#' @examples
#' writeLines(study_starter(demo_file("inns.csv")))
#' @export
study_starter <- function(file) {
  check_given()
  found <- inspect_file(file)
  arguments <- found$arguments
  name <- gsub("^[^a-z]+|[^a-z0-9]+$", "", gsub(
    "[^a-z0-9]+", "_", tolower(sub("[.].*$", "", basename(file)))
  ))
  name <- if (nzchar(name)) make.names(name) else "records"
  c(
    "backfill: 1",
    sprintf("title: A first look at %s", yaml_text(basename(file))),
    "",
    "# Keep this file in the folder of the records. Check the kind of each",
    "# measure: a flow is added up, a level is averaged, a counter only rises.",
    "records:", sprintf("  %s:", name),
    sprintf("    file: %s", yaml_text(basename(file))),
    unlist(lapply(names(arguments), function(argument) {
      yaml_lines(argument, arguments[[argument]], "    ")
    })),
    "",
    "# What is done with them, one verb after the other. A step with a name is",
    "# written out; `from` takes up an earlier one.",
    "steps:", "  - roll_up: {every: month}", "    name: monthly",
    "  - add_growth: {over: 1 year}", "    name: growth",
    "  - flag_periods:", "    from: monthly", "    name: flags",
    "", "figures:", "  - of: monthly", "",
    "# A page of what was read and found, report.html:", "# report: true"
  )
}

yaml_lines <- function(name, value, indent) {
  value <- if (is.list(value)) unlist(value) else value
  if (!is.null(names(value)) && any(nzchar(names(value)))) {
    return(c(
      sprintf("%s%s:", indent, name),
      sprintf("%s  %s: %s", indent, yaml_text(names(value)), yaml_text(value))
    ))
  }
  texts <- yaml_text(value)
  sprintf("%s%s: %s", indent, name, if (length(texts) == 1) {
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
