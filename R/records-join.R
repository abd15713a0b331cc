#' Join records by their series and time
#'
#' Makes one records table of several whose measures belong together, as where
#' each measure has a file of its own: a record for each series and time of any
#' of them.
#'
#' A measure that has no record of a series and time is missing there, and
#' printing the account tells how many records have no match in each table.
#' Nothing is left out.
#'
#' @param ... Records tables, from [read_records()] or [as_records()], with the
#'   same series columns and zone, and measures of their own.
#' @return A records table with the date, the series columns and the measures of
#'   all; other columns are left behind. [account()] of it adds up the rows of
#'   all.
#' @section Errors: `backfill_error_input` where one is not a records table,
#'   holds versions (`known`) or a measure that [add_attributes()] joined, which
#'   is done after; `backfill_error_column` where series or zones differ, one
#'   has dates and another times, or a measure is in two of them;
#'   `backfill_error_duplicates` where one has several records of one series and
#'   time.
#' @seealso [put_together()] for periods tables; [add_attributes()] for a small
#'   table; [check_identity()] for measures that must fit.
#' @examples
#' sold <- as_records(
#'   data.frame(day = as.Date("2031-04-01") + 0:3, kilos = c(120, 80, 95, 110)),
#'   "day", c(kilos = "flow")
#' )
#' boats <- as_records(
#'   data.frame(day = as.Date("2031-04-02") + 0:3, boats = c(4, 5, 3, 6)),
#'   "day", c(boats = "flow")
#' )
#' joined <- join_records(sold, boats)
#' account(joined)
#' @export
join_records <- function(...) {
  tables <- list(...)
  check_tables_to_join(tables)
  role <- facts(tables[[1]])
  key <- c(role$when, role$series)
  keys <- lapply(tables, function(table) {
    own <- facts(table)
    stats::setNames(plain_tibble(table)[c(own$when, role$series)], key)
  })
  all <- vctrs::vec_unique(vctrs::vec_rbind(!!!keys))
  all <- vctrs::vec_slice(all, order(vctrs::vec_rank(all)))
  at <- lapply(keys, function(one) vctrs::vec_match(all, one))
  columns <- Map(function(table, rows) {
    vctrs::vec_slice(plain_tibble(table)[names(facts(table)$measures)], rows)
  }, tables, at)
  measures <- unlist(
    lapply(tables, function(table) facts(table)$measures), recursive = FALSE
  )
  out <- vctrs::vec_cbind(all, !!!columns)
  account <- join_accounts(lapply(tables, function(table) {
    facts(table)$account
  }))
  account$rows_merged <- account$rows_merged +
    sum(vapply(keys, nrow, 0L)) - nrow(all)
  account$notes <- c(account$notes, lacking_partners(at, tables))
  new_records(
    out, role$when, role$series, measures, role$zone, account,
    year_start = role$year_start, kept = kept_by_all(tables)
  )
}

# The rules of keep_dates() that all of them keep to.
kept_by_all <- function(tables) {
  rules <- unique(lapply(tables, function(table) facts(table)$kept))
  if (length(rules) == 1) rules[[1]]
}

# How many records of the joined table lack the measures of each.
lacking_partners <- function(at, tables) {
  lacking <- vapply(at, function(rows) sum(is.na(rows)), 0L)
  short <- which(lacking > 0)
  if (length(short) == 0) {
    return("Every record has a match in each of the tables.")
  }
  vapply(short, function(i) {
    glue(
      "{count_of(lacking[[i]], 'record has', 'records have')} no match in the",
      "table of {in_words(names(facts(tables[[i]])$measures))}."
    )
  }, "")
}

check_tables_to_join <- function(tables) {
  if (length(tables) < 2 || !all(vapply(tables, is_records, NA))) {
    abort_backfill(
      "input", "Two records tables or more are joined, and nothing else.",
      ">" = "Make each with read_records() or as_records()."
    )
  }
  first <- facts(tables[[1]])
  for (table in tables) {
    check_fits_first(facts(table), first)
    check_same_times(table, tables[[1]])
    check_one_record_each(table)
  }
  measures <- unlist(lapply(tables, function(table) {
    names(facts(table)$measures)
  }))
  if (anyDuplicated(measures)) {
    abort_backfill(
      "column",
      "Two of the tables have a measure",
      "{quoted(measures[duplicated(measures)][[1]])}.",
      ">" = "Rename it in one of them: rename_measures(), or `rename`."
    )
  }
}

check_fits_first <- function(role, first) {
  if (!is.null(role$known)) {
    abort_backfill(
      "input", "A table to be joined holds versions (`known`).",
      ">" = "Take those of one day with as_known_on() first."
    )
  }
  joined <- names(Filter(function(one) !is.null(one$key), role$measures))
  if (length(joined) > 0) {
    abort_backfill(
      "input",
      "{quoted(joined[[1]])} was joined by a key, which the joined records",
      "would not keep.",
      ">" = "Join the records first, then add_attributes()."
    )
  }
  if (!identical(role$zone, first$zone)) {
    abort_backfill(
      "column",
      "The tables do not fit: the zone is {quoted(first$zone)} in one, and",
      "{quoted(role$zone)} in another."
    )
  }
  if (!setequal(role$series, first$series)) {
    columns <- function(of) {
      if (length(of) > 0) in_words(quoted(of)) else "none"
    }
    abort_backfill(
      "column", "The tables do not fit: their series columns are",
      "{columns(first$series)}, and {columns(role$series)}.",
      ">" = if (length(role$series) == 0) paste(
        "What all series share, such as the weather of a day, is joined by",
        "add_attributes(), with the date as `key`."
      )
    )
  }
}

# A day has no match among times.
check_same_times <- function(table, first) {
  dates <- vapply(list(table, first), function(one) {
    inherits(one[[facts(one)$when]], "Date")
  }, NA)
  if (dates[[1]] != dates[[2]]) {
    abort_backfill(
      "column",
      "The tables do not fit: one holds dates, and another times of day.",
      ">" = "Roll each up to the same periods, then put_together()."
    )
  }
}

check_one_record_each <- function(table) {
  role <- facts(table)
  keys <- plain_tibble(table)[c(role$when, role$series)]
  again <- vctrs::vec_duplicate_detect(keys)
  if (any(again)) {
    abort_backfill(
      "duplicates",
      "{count_of(sum(again), 'record')} of {in_words(names(role$measures))}",
      "share a series and time, so that partners are not known.",
      ">" = "Make one record of them: `duplicates` is \"sum\", \"mean\",",
      "\"first\" or \"last\" when they are read."
    )
  }
}
