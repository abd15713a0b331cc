# What a trace says: the figure in a sentence, then what it was made of.

#' @export
describe.backfill_trace <- function(x, ...) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  one <- plain_tibble(x)[1, ]
  calendar <- facts(x)$calendar
  what <- sprintf("%s of %s,", one$column, facts(x)$where)
  c(
    if ("judgement" %in% names(x)) {
      sprintf("%s is \"%s\", %s.", what, one$judgement, one$formula)
    } else {
      sprintf(
        "%s is %s: %s.", what, if (is.na(one$figure)) "not given" else
          trimws(format_cells(one$figure, unit_of_traced(x, one))), one$formula
      )
    },
    if (!is.na(one$worked)) {
      glue("Worked out: {shortened(rounded_in_text(one$worked), 300)}.")
    },
    describe_lacking(plain_tibble(x), calendar), describe_records_behind(x)
  )
}

# That of its column, or of a result the one that goes by its name.
unit_of_traced <- function(x, one) {
  units <- column_units.backfill_result(x)
  of_result <- is.na(one[["standing"]] %||% NA) && one$column %in% names(units)
  facts(x)$unit %||% if (of_result) units[[one$column]]
}

# Periods that went into it without a whole value.
describe_lacking <- function(x, calendar) {
  odd <- if ("standing" %in% names(x)) which(
    x$column == "value" &
      !x$standing %in% c("complete", "imputed", "projected", NA)
  )
  if (length(odd) > 0) sprintf(
    "Not whole, and left out by calculations: %s.",
    in_words(unique(sprintf(
      "%s (%s)", period_label(x$period[odd], calendar), x$standing[odd]
    )), 6)
  )
}

describe_records_behind <- function(x) {
  rows <- facts(x)$records
  if (!is.null(rows)) glue(
    "{count_are(nrow(rows), 'record')} behind",
    "{if ('period' %in% names(x)) 'its values' else 'it'}; summary() lists",
    "them, and `--rows` does in a shell."
  )
}

shortened <- function(text, width) {
  long <- !is.na(text) & nchar(text) > width
  ifelse(long, paste0(substr(text, 1, width - 4), " ..."), text)
}

#' @export
table_cells.backfill_trace <- function(x, n = Inf) {
  shown <- with_labels(first_rows_of(x, n), x)
  of <- shown$column
  shown$column <- paste0(strrep("  ", shown$depth), of)
  shown$worked <- shortened(rounded_in_text(shown$worked), 40)
  shown$formula <- shortened(shown$formula, 50)
  for (name in c("worked", "first_record", "last_record")) {
    shown[[name]] <- blank_for_none(shown[[name]])
  }
  text_cells(
    shown[setdiff(names(shown), "depth")], column_units(x),
    paste(of, shown[["measure"]])
  )
}

blank_for_none <- function(x) {
  if (!is.null(x)) ifelse(is.na(x), "", format_cells(x))
}

# Arithmetic with its long figures rounded for reading.
rounded_in_text <- function(text) {
  if (anyNA(text)) {
    return(replace(text, !is.na(text), rounded_in_text(text[!is.na(text)])))
  }
  found <- gregexpr("[0-9]+[.][0-9]{5,}(e[-+]?[0-9]+)?", text)
  regmatches(text, found) <- lapply(regmatches(text, found), function(figure) {
    sprintf("%.6g", as.numeric(figure))
  })
  text
}

# The records as they are.
#' @export
table_cells.backfill_trace_records <- function(x, n = Inf) {
  text_cells(first_rows_of(x, n))
}

#' @export
describe.backfill_trace_records <- function(x, ...) {
  sprintf(
    "%s behind the values of a trace; step is the row of the trace.",
    count_of(nrow(x), "record")
  )
}

#' @export
column_units.backfill_trace <- function(x) c(coverage = "coverage")
