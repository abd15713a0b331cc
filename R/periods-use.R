# Which statistic each measure is rolled up by.

# What the records of a period can become, beside quantiles such as "90%".
statistics <- c(
  "sum", "mean", "first", "last", "lowest", "highest", "median", "sd", "count",
  "slots"
)

# What the kind of a measure decides. "parts" are those of a ratio, "compound"
# is the growth over all returns.
use_of_kind <- c(
  flow = "sum", counter = "sum", level = "mean", ratio = "parts",
  return = "compound", "log return" = "sum"
)

# The measures that the table will have, by their names: each with `from`, the
# measure it is made of, and `use`. Several statistics of one measure become
# measures of their own, such as price_first and price_last.
plan_measures <- function(measures, use, call = caller_env()) {
  use <- named_by_measure(use, names(measures), "use", call)
  planned <- lapply(names(measures), function(name) {
    asked <- use[[name]]
    if (is.null(asked)) {
      own <- measures[[name]]
      own$from <- name
      own$use <- own$use %||% use_of_kind[[own$kind]]
      return(stats::setNames(list(own), name))
    }
    check_use(asked, name, measures[[name]], call)
    out <- lapply(asked, function(one) {
      own <- measures[[name]]
      own$from <- name
      own$use <- one
      if (one %in% c("count", "slots")) {
        own$unit <- c(count = "records", slots = "slots")[[one]]
      }
      own
    })
    stats::setNames(out, if (length(asked) == 1) {
      name
    } else {
      paste(name, sub("%", "", asked, fixed = TRUE), sep = "_")
    })
  })
  do.call(c, planned)
}

# An argument that says something of each measure: one value for all, or named
# ones.
named_by_measure <- function(x, names, argument, call) {
  if (is.null(x)) {
    return(NULL)
  }
  if (!rlang::is_named(x)) {
    if (!rlang::is_string(x)) {
      abort_backfill(
        "argument", sprintf("`%s` is %s.", argument, value_in_words(x)),
        i = sprintf(
          paste(
            "It must be one text, or texts named by measures, such as c(%s",
            "= ...)."
          ),
          names[[1]]
        ),
        call = call
      )
    }
    return(stats::setNames(rep(list(x), length(names)), names))
  }
  unknown <- setdiff(names(x), names)
  if (length(unknown) > 0) {
    abort_backfill(
      "column",
      sprintf(
        "`%s` names %s, which is not a measure.", argument,
        in_words(quoted(unknown))
      ),
      i = sprintf("The measures are %s.", in_words(quoted(names))), call = call
    )
  }
  as.list(x)
}

check_use <- function(use, name, measure, call) {
  known <- is.character(use) & (
    use %in% statistics | !is.na(quantile_share(use))
  )
  if (length(use) == 0 || !all(known) || anyDuplicated(use)) {
    abort_backfill(
      "argument", sprintf(
        "`use` of %s is %s.", name, in_words(quoted(as.character(use)))
      ),
      i = word_meant(use, statistics),
      i = sprintf(
        "It must be %s, or a quantile such as \"90%%\".",
        in_words(quoted(statistics), last = " or ")
      ),
      call = call
    )
  }
  misused <- uses_without_meaning[[measure$kind]]
  if (any(misused$use %in% use)) {
    rlang::warn(
      sprintf(misused$why, name),
      class = c("backfill_warning_use", "backfill_warning")
    )
  }
}

uses_without_meaning <- list(
  level = list(use = "sum", why = paste(
    "%s is a level: its readings added up mean nothing. Use \"mean\",",
    "\"last\" or another of its readings."
  )),
  ratio = list(use = c("sum", "mean"), why = paste(
    "%s is a ratio: the sum or mean of its readings weighs them wrongly. Leave",
    "`use` out, and it is made of its parts."
  )),
  return = list(use = "sum", why = paste(
    "%s is a simple return: returns are compounded, not added. Leave `use`",
    "out, or declare a \"log return\"."
  ))
)

# "90%" is 0.9; NA for what is no such text.
quantile_share <- function(use) {
  number <- suppressWarnings(as.numeric(sub("%$", "", use))) / 100
  ifelse(
    use == "median", 0.5,
    ifelse(
      grepl("%$", use) & !is.na(number) & number >= 0 & number <= 1, number, NA
    )
  )
}

# Whether the cells need more than sums and counts.
needs_statistics <- function(use) {
  use %in% c(
    "first", "last", "lowest", "highest", "sd"
  )
}

# The statistic of each cell, NA where there are no records.
statistic_of <- function(cells, use) {
  value <- switch(
    use, sum = , compound = cells$sum,
    mean = cells$mean %||% (
      cells$sum / cells$records
    ),
    count = as.double(cells$records), slots = as.double(cells$slots),
    cells[[use]]
  )
  if (use == "compound") {
    value <- expm1(value)
  }
  value[(cells$known %||% cells$records) == 0] <- NA
  value
}

absent_choices <- c(flow = "zero", counter = "spread")

# What absence means, by the measures of the records.
check_absent <- function(absent, planned, call = caller_env()) {
  kinds <- vapply(planned, `[[`, "", "kind")
  names(kinds) <- vapply(planned, `[[`, "", "from")
  kinds <- kinds[!duplicated(names(kinds))]
  for_all <- !is.null(absent) && !rlang::is_named(absent)
  absent <- named_by_measure(absent, names(kinds), "absent", call)
  fits <- vapply(
    names(absent),
    function(name) {
      identical(
        absent[[name]], unname(absent_choices[kinds[name]])
      )
    },
    NA
  )
  if (for_all && any(fits)) {
    return(absent[fits])
  }
  if (!all(fits)) {
    name <- names(absent)[!fits][[1]]
    abort_backfill(
      "argument", sprintf(
        "`absent` of %s, a %s, is %s.", name, kinds[[name]],
        value_in_words(absent[[name]])
      ),
      i = paste(
        "It can be \"zero\" for a flow, where silence means zero, and",
        "\"spread\" for a counter; a level has neither."
      ),
      call = call
    )
  }
  absent
}

# What becomes of levels' sub-series.
check_pool <- function(pool, planned, call = caller_env()) {
  names <- unique(unname(vapply(planned, `[[`, "", "from")))
  pool <- named_by_measure(pool, names, "pool", call)
  unknown <- setdiff(unlist(pool), c("sum", "mean", names))
  if (length(unknown) > 0) {
    abort_backfill(
      "argument", sprintf("`pool` is %s.", in_words(quoted(unknown))),
      i = sprintf(
        "It must be \"mean\", \"sum\" or a measure that weighs: %s.",
        in_words(quoted(names))
      ),
      call = call
    )
  }
  pool
}
