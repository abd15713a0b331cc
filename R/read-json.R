# JSON: an array of flat objects, an object that holds such an array, or one object per line.

read_json <- function(file, form, call) {
  need_package("jsonlite", "to read JSON", call)
  lines <- one_object_per_line(file$path)
  data <- tryCatch(
    if (lines) jsonlite::stream_in(file(file$path), verbose = FALSE) else jsonlite::fromJSON(file$path),
    error = identity
  )
  if (inherits(data, "error")) {
    abort_backfill("file", sprintf("%s cannot be read as JSON.", basename(file$shown)),
                   i = trimws(sub("\n.*", "", conditionMessage(data))), call = call)
  }
  if (!is.data.frame(data)) {
    data <- json_member(data, form$table, file, call)
  }
  nested <- names(data)[vapply(data, is.list, NA)]
  if (length(nested) > 0) {
    abort_backfill("file", sprintf("%s holds objects or arrays in %s; flat records are expected.",
                                   basename(file$shown), in_words(quoted(nested))), call = call)
  }
  new_raw(as.list(data), nrow(data), list(names(data)), file$shown, identity)
}

# Each line is an object that ends with it, and there are several.
one_object_per_line <- function(path) {
  lines <- trimws(readLines(path, n = 2, warn = FALSE))
  length(lines) == 2 && all(startsWith(lines, "{") & endsWith(lines, "}")) || (
    length(lines) == 1 && startsWith(lines, "{") && !grepl("[", lines, fixed = TRUE)
  )
}

json_member <- function(data, table, file, call) {
  members <- if (is.list(data)) Filter(is.data.frame, data) else list()
  name <- table %||% (if (length(members) == 1) names(members))
  if (is.null(name) || !name %in% names(members)) {
    abort_backfill("file", sprintf("%s is no array of objects.", basename(file$shown)),
                   i = if (length(members) > 0) sprintf("Such arrays in it are %s.", in_words(quoted(names(members)))),
                   ">" = if (length(members) > 0) "Name one of them: `table`.", call = call)
  }
  members[[name]]
}
