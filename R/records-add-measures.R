#' Make measures of measures
#'
#' Adds measures that are computed row by row from those that were read, such as
#' the sum of two lines. A derived measure has a kind like any other. Where the
#' formula leaves no doubt it is found: a sum or difference of measures of one
#' kind, or a measure times or over a number, is of that kind, and a flow over a
#' flow is their ratio, which later roll-ups make from its parts again.
#'
#' @param x A records table, from [read_records()] or [as_records()].
#' @param ... Named formulas over the columns of measures, such as
#'   `total = market + tide`: numbers, `+ - * /`, brackets, and names of
#'   measures. Later ones may use earlier ones. A missing value in a row makes a
#'   missing value; so does a division by 0.
#' @param measures Kinds (and units) of the new measures, as in
#'   [read_records()]: needed only where the formula leaves the kind open, as
#'   for a product of two measures.
#' @return `x` with a column and a measure more for each formula.
#' @section Errors: `backfill_error_input` where `x` is not a records table;
#'   `backfill_error_formula` for a formula that has other parts than these;
#'   `backfill_error_kind` where the kind is neither given nor clear;
#'   `backfill_error_column` where the name is taken.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' add_measures(crossings, total = market + tide)
#' @export
add_measures <- function(x, ..., measures = NULL) {
  check_records(x)
  derived(x, rlang::enexprs(...), measures)
}

# The same of formulas in a list, whose names may be any.
derived <- function(x, formulas, measures) {
  if (length(formulas) == 0 || !rlang::is_named(formulas)) {
    abort_backfill(
      "formula", "`add_measures()` needs named formulas.",
      ">" = "Write them as total = market + tide."
    )
  }
  role <- facts(x)
  declared <- if (is.null(measures)) list() else check_measures(measures)
  data <- plain_tibble(x)
  for (name in names(formulas)) {
    if (name %in% names(data)) {
      abort_backfill(
        "column", "There is a column {quoted(name)} already.",
        ">" = "Choose another name."
      )
    }
    formula <- formulas[[name]]
    data[[name]] <- evaluated(formula, data, role$measures)
    kind <- declared[[name]] %||% derived_kind(formula, role$measures)
    if (is.null(kind)) {
      abort_backfill(
        "kind",
        "What kind of measure {name} is does not follow from",
        "{rlang::expr_text(formula)}.",
        i = if ("/" %in% all.names(formula)) {
          paste(
            "A ratio is of one measure per another. For a rate per thousand",
            "make the thousands first, as in thousands = residents / 1000."
          )
        },
        ">" = "Say it: in R as `measures = c({name} = \"flow\")`, in a shell",
        "as \"{name}:flow = {rlang::expr_text(formula)}\", or another kind."
      )
    }
    role$measures[[name]] <- kind
    role$account$missing <- with_lacking(
      role$account$missing, name, sum(is.na(data[[name]]))
    )
  }
  needed <- c(role$when, role$series, names(role$measures))
  new_table(data, "records", needed, role)
}

# What an account says of missing values, with those of a derived measure.
with_lacking <- function(missing, name, count) {
  if (count == 0) missing else vctrs::vec_rbind(missing, new_rows(
    measure = name, reason = part_missing, count = count
  ))
}

part_missing <- "where a part of it is missing"

operators <- c("+", "-", "*", "/", "(")

# Arithmetic over measures and numbers, and nothing else: a formula may come
# from a file.
evaluated <- function(formula, data, measures) {
  if (is.numeric(formula) && length(formula) == 1) {
    return(formula)
  }
  if (is.symbol(formula)) {
    name <- as.character(formula)
    if (!name %in% names(measures)) {
      abort_backfill(
        "formula", "There is no measure {quoted(name)}.",
        i = "The measures are {in_words(names(measures))}."
      )
    }
    return(data[[name]])
  }
  if (
    !is.call(formula) || !is.symbol(formula[[1]]) ||
      !as.character(formula[[1]]) %in% operators
  ) {
    abort_backfill(
      "formula", "{rlang::expr_text(formula)} is not read in a formula.",
      i = "Its parts are numbers, names of measures, + - * / and brackets."
    )
  }
  parts <- lapply(
    as.list(formula)[-1], evaluated, data = data, measures = measures
  )
  out <- do.call(as.character(formula[[1]]), parts)
  out[!is.finite(out)] <- NA
  out
}

# A measure where the formula is one by its parts; NULL where that is open.
# Units are kept where they are the same.
derived_kind <- function(formula, measures) {
  if (is.symbol(formula)) {
    return(measures[[as.character(formula)]])
  }
  if (is.numeric(formula)) {
    return("number")
  }
  parts <- lapply(as.list(formula)[-1], derived_kind, measures = measures)
  if (any(vapply(parts, is.null, NA))) {
    return(NULL)
  }
  number <- vapply(parts, identical, NA, "number")
  if (all(number)) {
    return("number")
  }
  if (length(parts) == 1) {
    return(parts[[1]])
  }
  switch(
    as.character(formula[[1]]),
    "*" = if (any(number)) scaled(parts[!number][[1]]),
    "/" = kind_of_quotient(formula, parts, number), kind_of_sum(parts, number)
  )
}

kind_of_quotient <- function(formula, parts, number) {
  if (any(number)) {
    return(if (number[[2]]) scaled(parts[[1]]))
  }
  kinds <- vapply(parts, `[[`, "", "kind")
  plain <- is.symbol(formula[[2]]) && is.symbol(formula[[3]])
  rises <- kinds[[1]] %in% c("flow", "counter")
  if (plain && rises && kinds[[2]] %in% c("flow", "level")) {
    measure(
      "ratio", of = as.character(formula[[2]]), per = as.character(formula[[3]])
    )
  }
}

kind_of_sum <- function(parts, number) {
  # A number added to a flow would be added once for each record.
  if (any(number)) {
    return(if (parts[!number][[1]]$kind == "level") parts[!number][[1]])
  }
  kinds <- vapply(parts, `[[`, "", "kind")
  if (kinds[[1]] != kinds[[2]] || !kinds[[1]] %in% c("flow", "level")) {
    return(NULL)
  }
  same_unit <- identical(parts[[1]]$unit, parts[[2]]$unit)
  measure(kinds[[1]], unit = if (same_unit) parts[[1]]$unit)
}

# Scaled figures are in another unit, which is not known.
scaled <- function(part) {
  if (part$kind %in% c("flow", "level")) measure(
    part$kind
  )
}
