# A verb with all that belongs to it in one file: what it calculates, says,
# draws, its declaration and its command. test-toy.R adds it to the package.

#' The longest run of rises of each series
#'
#' @param x A periods table.
#' @param least How many rises make a run.
#' @export
longest_rise <- function(x, least = 2) {
  x <- check_periods(x)
  check_whole(least, "least", 1, 1000, "how many rises make a run")
  along <- along_series(x, "value")
  start <- first_rows(along)
  rises <- c(FALSE, diff(along$value) > 0) & !seq_along(start$line) %in%
    start$first
  run <- rle(paste(start$line, rises %in% TRUE))
  ends <- cumsum(run$lengths)
  line <- start$line[ends]
  length <- ifelse(grepl("TRUE", run$values), run$lengths, 0L)
  longest <- as.vector(tapply(length, line, max))
  keys <- keys_at(x, along, start$first)
  out <- tibble::tibble(keys, rises = as.integer(longest))
  kept <- facts(x)[c("calendar", "series", "measures", "sources")]
  new_result(out[longest >= least, ], "rises", c(kept, list(least = least)))
}

#' @export
describe.backfill_rises <- function(x, ...) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  best <- which.max(x$rises)
  sprintf(
    "%s rises %s in a row.", lines_of_result(x)[[best]],
    count_of(x$rises[[best]], "time")
  )
}

#' @exportS3Method ggplot2::autoplot
autoplot.backfill_rises <- function(object, highlight = NULL, ...) {
  data <- data.frame(line = lines_of_result(object), rises = object$rises)
  ggplot2::ggplot(data, ggplot2::aes(.data$rises, .data$line)) +
    ggplot2::geom_col() +
    ggplot2::labs(title = "Longest rise", x = "Rises", y = NULL)
}

declare_longest_rise <- function() {
  new_verb(
    "longest_rise", "periods", "a result", "The longest run of rises.",
    least = verb_argument(
      type_number("N"), "How many rises make a run. Default: 2."
    )
  )
}

command_rises <- function() {
  list(
    name = "rises", inputs = "FILE...", run = run_rises,
    about = "List the longest run of rises of each series.",
    options = c(
      input_options(), options_of("longest_rise", "least"),
      output_options("Not used.")
    ),
    examples = "backfill rises inns.csv",
    wants = c("List the longest run" = "rises FILE")
  )
}

run_rises <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  rolled <- roll_input(options, inputs)
  found <- run_verb("longest_rise", rolled$periods, options, "least")
  put_finding(found, rolled$aside, format, options)
}
