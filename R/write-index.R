#' Keep a seasonal index in a file
#'
#' `write_index()` writes what is needed to use an index again: its cycle, form
#' and calendar, and its rows, as JSON with every digit; of one that moves also
#' those of each period, by its start in days since 1970-01-01 (in seconds,
#' where periods are shorter than a day). `read_index()` reads it back. The
#' tests and the worksheet are not kept.
#'
#' @param index A seasonal index, from [seasonal_index()].
#' @param file Path of the file. A file that is there is replaced, unless the
#'   records were read from it.
#' @return `write_index()`: `index`, invisibly. `read_index()`: the index, as
#'   [seasonal_index()] gives it.
#' @section Errors: `backfill_error_input` where `index` is not one;
#'   `backfill_error_file` where the file cannot be written or read, or holds no
#'   seasonal index.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' file <- tempfile(fileext = ".json")
#' write_index(seasonal_index(monthly), file)
#' deseasonalise(monthly, read_index(file))
#' @export
write_index <- function(index, file) {
  check_given()
  if (!inherits(index, "backfill_seasonal_index")) {
    abort_backfill(
      "input", "`index` is {value_in_words(index)}, not a seasonal index.",
      ">" = "Make one with seasonal_index()."
    )
  }
  season <- facts(index)
  check_output(file, season$sources)
  # The rows apart, as their digits are more than the serialiser gives by
  # itself.
  text <- sub("}$", "", jsonlite::toJSON(
    index_as_list(season), auto_unbox = TRUE, digits = NA, null = "null"
  ))
  rows <- list(rows = plain_tibble(index), moving = season$moving)
  rows <- rows[!vapply(rows, is.null, NA)]
  text <- paste0(c(text, sprintf(
    ",\"%s\":%s", names(rows), vapply(rows, rows_json, "")
  ), "}"), collapse = "")
  write_beside(file, function(path) writeLines(text, path, useBytes = TRUE))
  invisible(index)
}

# What a file holds of an index but for its rows. I() keeps a list of one.
index_as_list <- function(season) {
  list(
    backfill = "seasonal index",
    # What knows of none that move must not take one for one that stays.
    version = if (is.null(season$moving)) 1L else 2L,
    cycle = season$cycle$length,
    cycle_in_words = season$cycle$words, form = season$form,
    method = season$method, combine = season$combine,
    normalised = season$normalised, of = season$of,
    calendar = calendar_as_list(season$calendar),
    measures = lapply(season$measures, function(measure) {
      measure[intersect(c("kind", "unit", "label"), names(measure))]
    }),
    series = I(as.character(season$series)),
    sources = I(as.character(season$sources))
  )
}

calendar_as_list <- function(calendar) {
  unit <- if (calendar$number == 1) calendar$unit else
    paste0(calendar$unit, "s")
  out <- list(
    every = paste(calendar$number, unit), zone = calendar$zone,
    week_start = calendar$week_start, year_start = calendar$year_start,
    origin = calendar$origin,
    workdays = if (calendar$workdays) I(open_weekdays(calendar)),
    holidays = if (length(calendar$holidays) > 0) {
      I(day_label(.Date(calendar$holidays)))
    }
  )
  c(out, if (!is.null(calendar$weeks)) named_weeks(calendar$weeks))
}
