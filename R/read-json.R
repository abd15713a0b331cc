# JSON: an array of flat objects, an object that holds such an array, or one
# object per line.

read_json <- function(file, form) {
  if (one_object_per_line(file)) {
    return(read_json_lines(file))
  }
  data <- tryCatch(
    # Integers that a double cannot hold stay as they are written.
    jsonlite::fromJSON(file$path, bigint_as_char = TRUE),
    error = function(cnd) stop_json(file, cnd)
  )
  if (!is.data.frame(data)) {
    data <- json_member(data, form$table, file)
  }
  check_flat(data, file)
  new_raw(
    file_columns(data, file), nrow(data), list(names(data)), file$shown,
    identity
  )
}

# Lines that hold no object are set aside.
read_json_lines <- function(file) {
  lines <- readLines(file$path, warn = FALSE, encoding = "UTF-8")
  at <- which(grepl("[^ \t]", lines, useBytes = TRUE))
  objects <- grepl("^[ \t]*[{].*[}][ \t]*$", lines[at], useBytes = TRUE)
  data <- tryCatch(json_rows(lines[at[objects]]), error = identity)
  if (inherits(data, "error") || nrow(data) != sum(objects)) {
    # One by one, which takes its time, only where one of them is broken.
    objects[objects] <- vapply(
      lines[at[objects]], function(line) isTRUE(c(jsonlite::validate(line))), NA
    )
    data <- tryCatch(
      json_rows(lines[at[objects]]), error = function(cnd) stop_json(file, cnd)
    )
  }
  if (nrow(data) != sum(objects)) {
    abort_backfill(
      "file",
      "{basename(file$shown)} cannot be read as JSON, one object per line.",
      i = "Its {count_of(sum(objects), 'object')} make",
      "{count_of(nrow(data), 'row')}."
    )
  }
  check_flat(data, file)
  odd <- at[!objects]
  rejected <- new_rejected(
    rep(file$shown, length(odd)), odd, rep("", length(odd)),
    iconv(lines[odd], "UTF-8", "UTF-8", sub = "?"),
    rep("not an object of JSON", length(odd))
  )
  new_raw(
    file_columns(data, file), nrow(data), list(names(data)), file$shown,
    function(rows) at[objects][rows], rejected
  )
}

# As one array, in pages that a text can hold.
json_rows <- function(lines) {
  page <- cumsum(as.numeric(nchar(lines, "bytes"))) %/% 1e9
  pages <- lapply(split(lines, page), function(own) {
    jsonlite::fromJSON(
      paste0("[", paste(own, collapse = ","), "]"), bigint_as_char = TRUE
    )
  })
  if (length(pages) == 1) pages[[1]] else jsonlite::rbind_pages(pages)
}

stop_json <- function(file, cnd) {
  abort_backfill(
    "file", "{basename(file$shown)} cannot be read as JSON.",
    i = "{trimws(sub('\n.*', '', conditionMessage(cnd)))}"
  )
}

check_flat <- function(data, file) {
  nested <- names(data)[vapply(data, is.list, NA)]
  if (length(nested) > 0) {
    abort_backfill(
      "file",
      "{basename(file$shown)} holds objects or arrays in",
      "{in_words(quoted(nested))}; flat records are expected."
    )
  }
}

# By its name, or as its first lines are an object each.
one_object_per_line <- function(file) {
  lines <- trimws(readLines(file$path, n = 2, warn = FALSE))
  first_two <- length(lines) == 2 && all(
    startsWith(lines, "{") & endsWith(lines, "}")
  )
  only_one <- length(lines) == 1 && startsWith(lines, "{") &&
    !grepl("[", lines, fixed = TRUE)
  names_lines(file) || first_two || only_one
}

names_lines <- function(file) {
  grepl(
    "[.](ndjson|jsonl)([.]gz)?$", file$shown, ignore.case = TRUE
  )
}

json_member <- function(data, table, file) {
  members <- if (is.list(data)) Filter(is.data.frame, data) else list()
  name <- table %||% (if (length(members) == 1) names(members))
  if (is.null(name) || !name %in% names(members)) {
    abort_backfill(
      "file", "{basename(file$shown)} is not an array of objects.",
      i = if (length(members) > 0) {
        "Such arrays in it are {in_words(quoted(names(members)))}."
      },
      ">" = if (length(members) > 0) "Name one of them: `table`."
    )
  }
  members[[name]]
}
