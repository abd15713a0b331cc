#' @rdname write_index
#' @export
read_index <- function(file) {
  check_given()
  if (!rlang::is_string(file) || !file.exists(file)) {
    abort_backfill("file", "There is no file {value_in_words(file)}.")
  }
  content <- if (!dir.exists(file)) tryCatch(
    jsonlite::fromJSON(file), error = function(cnd) NULL
  )
  needed <- c(
    "cycle", "form", "method", "combine", "normalised", "calendar", "measures",
    "series", "rows"
  )
  ours <- is.list(content) && identical(
    content$backfill, "seasonal index"
  ) && all(needed %in% names(content)) &&
    is.data.frame(content$rows)
  if (
    !ours || !all(
      c(unlist(content$series), "measure", "position", "index") %in%
        names(content$rows)
    )
  ) {
    abort_backfill(
      "file", "{file} holds no seasonal index.",
      ">" = "write_index() and `backfill season --save` write such files."
    )
  }
  if (!isTRUE(as.integer(content$version) %in% 1:2)) {
    abort_backfill("file", "{file} was written by a later version of Backfill.")
  }
  rlang::try_fetch(index_of_content(content), error = function(cnd) {
    abort_backfill(
      "file",
      "{file} holds a seasonal index that is damaged:",
      "{sub('\n.*', '', rlang::cnd_message(cnd))}",
      ">" = "Make it again: write_index(), or `backfill season --save`."
    )
  })
}

index_of_content <- function(content) {
  calendar <- calendar_of_index(content$calendar)
  cycle <- check_cycle(content$cycle, calendar)
  cycle$words <- content$cycle_in_words
  rows_of <- function(stored) {
    rows <- tibble::as_tibble(stored)
    rows$position <- factor(as.character(rows$position), cycle$labels)
    rows$index <- as.double(rows$index)
    if (anyNA(rows$position)) {
      stop(sprintf(
        "it has a position that its cycle of %s does not have.", cycle$words
      ))
    }
    rows
  }
  new_result(rows_of(content$rows), "seasonal_index", list(
    calendar = calendar, series = as.character(unlist(content$series)),
    measures = lapply(
      content$measures,
      function(one) do.call(measure, one[!vapply(one, is.null, NA)])
    ),
    sources = as.character(unlist(content$sources)), cycle = cycle[
      c("length", "words", "noun", "own")
    ],
    form = content$form, method = content$method, combine = content$combine,
    normalised = content$normalised,
    of = content$of,
    moving = if (!is.null(content$moving)) rows_of(content$moving)
  ))
}

calendar_of_index <- function(stored) {
  out <- calendar(
    stored$every, zone = stored$zone, week_start = stored$week_start,
    year_start = stored$year_start, whole_weeks = stored$whole_weeks,
    first_week = stored$first_week %||% "nearest",
    workdays = stored$workdays,
    holidays = if (!is.null(stored$holidays)) as.Date(unlist(stored$holidays))
  )
  out$origin <- as.double(stored$origin)
  out
}
