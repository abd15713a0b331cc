#' Name the kind of a measure
#'
#' The kind says what happens to a measure when its records are rolled up to
#' longer periods, so that a change of period cannot make nonsense of it.
#'
#' | kind | example | over a longer period | an empty period |
#' |---|---|---|---|
#' | `"flow"` | boardings, kilograms sold | added up | `NA` |
#' | `"level"` | price, temperature, stock on hand | mean of the readings | `NA` |
#' | `"count"` | tickets, incidents: the rows themselves | counted | 0 between the first and the last row |
#' | `"counter"` | meter reading, cumulative count | differenced into a flow first | `NA` |
#' | `"ratio"` | price per kilo, nights per resident | its parts are rolled up apart, then divided | `NA` |
#' | `"return"` | simple growth of a price since the record before | compounded | `NA` |
#' | `"log return"` | logarithm of the ratio to the price before | added up | `NA` |
#'
#' A count needs no column: its name is a new one, each row counts as one, rows
#' of one time are kept beside each other, and it is a flow from then on.
#'
#' @param kind The kind: `"flow"`, `"level"`, `"count"`, `"counter"`, `"ratio"`,
#'   `"return"` or `"log return"`.
#' @param unit What is counted or measured, such as `"boardings"` or `"kg"`; a
#'   single string, or `NULL` where it is not known. It labels the axes of
#'   figures. A return is a share (0.012), or per cent (1.2) where the unit is
#'   `"%"`.
#' @param label What figures and pages call it, such as `"nights sold"`; `NULL`
#'   for its name.
#' @param of,per For a ratio: the names of the measures above and below the
#'   line, both among the `measures` that are read with it. Where the data has
#'   no column of the ratio's own name, it is computed, `NA` where `per` is 0.
#' @return A measure, to be named in the `measures` argument of
#'   [read_records()].
#' @section Errors: `backfill_error_kind` for an unknown kind, and for a ratio
#'   without its parts; `backfill_error_argument` for a unit or a label that is
#'   not a string.
#' @examples
#' measure("flow", unit = "boardings")
#' measure("level")
#' tickets <- data.frame(opened = as.Date("2031-04-09") + c(0, 0, 3))
#' as_records(tickets, "opened", c(tickets = "count"))
#' measure("ratio", of = "guest_nights", per = "residents")
#' @export
measure <- function(
  kind, unit = NULL, of = NULL, per = NULL, label = NULL
) {
  check_given()
  if (!rlang::is_string(kind) || !kind %in% measure_kinds) {
    abort_backfill(
      "kind", "The kind of a measure is {value_in_words(kind)}.",
      i = "It must be \"flow\" (added up over time, such as sales), \"level\"",
      "(averaged, such as a price), \"count\" (of the rows themselves),",
      "\"counter\" (a reading that only rises, such as a meter's), \"ratio\"",
      "(one measure per another), \"return\" (compounded) or \"log return\"",
      "(added up)."
    )
  }
  check_word(unit, "unit", "boardings")
  check_word(label, "label", "nights sold")
  check_ratio(kind, of, per)
  counted <- kind == "count"
  structure(
    c(
      list(kind = if (counted) "flow" else kind, unit = unit),
      if (counted) list(counted = TRUE),
      if (kind == "ratio") list(of = of, per = per),
      if (!is.null(label)) list(label = label)
    ),
    class = "backfill_measure"
  )
}

check_word <- function(x, argument, example) {
  if (!is.null(x) && (!rlang::is_string(x) || !nzchar(x))) {
    abort_backfill(
      "argument",
      "`{argument}` must be a single string, such as \"{example}\"."
    )
  }
}

check_ratio <- function(kind, of, per) {
  if (kind != "ratio") {
    if (!is.null(c(of, per))) {
      abort_backfill(
        "kind",
        "`of` and `per` are given for a {kind}; only a ratio has such parts."
      )
    }
    return()
  }
  if (!rlang::is_string(of) || !rlang::is_string(per) || of == per) {
    abort_backfill(
      "kind", "A ratio needs the names of two measures, `of` and `per`.",
      ">" = "Write it as measure(\"ratio\", of = \"guest_nights\", per =",
      "\"residents\")."
    )
  }
}

measure_kinds <- c(
  "flow", "level", "count", "counter", "ratio", "return", "log return"
)

#' @export
format.backfill_measure <- function(x, ...) {
  paste0(
    stated_parts(x)$kind,
    if (!is.null(x$of)) sprintf(" of %s per %s", x$of, x$per),
    if (!is.null(x$unit)) paste(" in", x$unit)
  )
}

# c(kilos = measure("flow", "kg")) takes a measure to pieces, "kilos.kind" and
# "kilos.unit".
as_they_were <- function(measures) {
  pieces <- c("unit", "counted", "of", "per", "label")
  names <- sub("[.]kind$", "", names(measures))
  for (name in setdiff(names, names(measures))) {
    of <- paste0(name, ".", pieces)
    if (!of[[1]] %in% names(measures)) next
    own <- stats::setNames(measures[of], pieces)
    at <- match(paste0(name, ".kind"), names(measures))
    measures[[at]] <- measure(
      if (is.null(own$counted)) measures[[at]] else "count",
      own$unit, own$of, own$per, own$label
    )
    names(measures)[[at]] <- name
    measures <- measures[!names(measures) %in% of]
  }
  measures
}

# The `measures` argument as a named list of measures: c(name = "flow") and
# list(name = measure("flow")) mean the same.
check_measures <- function(measures) {
  if (
    inherits(
      measures, "backfill_measure"
    ) || length(measures) == 0 || !rlang::is_named(measures)
  ) {
    abort_backfill(
      "argument", "`measures` must name at least one column and its kind.",
      ">" = "Write it as c(boardings = \"flow\") or list(boardings =",
      "measure(\"flow\", unit = \"people\"))."
    )
  }
  if (anyDuplicated(names(measures))) {
    twice <- names(measures)[duplicated(names(measures))]
    abort_backfill(
      "argument", "`measures` names {in_words(unique(twice))} more than once."
    )
  }
  measures <- lapply(as_they_were(as.list(measures)), function(x) {
    if (inherits(x, "backfill_measure")) x else measure(x)
  })
  for (name in names(ratios(measures))) {
    lacking <- setdiff(
      c(measures[[name]]$of, measures[[name]]$per),
      names(plain_measures(measures))
    )
    if (length(lacking) > 0) {
      abort_backfill(
        "kind",
        "The ratio \"{name}\" is made of {in_words(quoted(lacking))}, which",
        "`measures` does not name.",
        ">" = "Name both parts of a ratio, with their kinds, beside it."
      )
    }
  }
  measures
}

ratios <- function(measures) Filter(function(m) m$kind == "ratio", measures)
plain_measures <- function(measures) {
  Filter(
    function(m) m$kind != "ratio", measures
  )
}

measure_parts <- c("kind", "unit", "of", "per", "label")

# A measure as its declaration has it: its parts, as far as they are given.
stated_parts <- function(measure) {
  if (is.character(measure)) {
    return(list(kind = measure))
  }
  parts <- unclass(measure)[measure_parts]
  if (isTRUE(measure$counted)) parts$kind <- "count"
  Filter(Negate(is.null), parts)
}

# The measures that are no columns, but count the rows.
counted_names <- function(measures) {
  names(Filter(function(m) isTRUE(m$counted), measures))
}

all_counted <- function(measures) {
  length(counted_names(measures)) == length(measures)
}

# One measure per another; NA where there is nothing to divide by.
divided <- function(of, per) {
  out <- of / per
  out[!is.finite(out)] <- NA
  out
}

plain_names <- function(x) names(plain_measures(facts(x)$measures))

# Which rows have any of the figures.
has_value <- function(figures, rows) {
  Reduce(function(there, figure) {
    if (all(there)) there else there | !is.na(figure)
  }, as.list(figures), logical(rows))
}
