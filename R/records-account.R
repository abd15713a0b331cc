#' The account of an intake: what was read, used and set aside
#'
#' Rows read are always rows used plus rows set aside. The account also tells
#' what an analyst would want to know before the first figure is computed: how
#' often something is recorded, where the longest gaps are, and what looks odd.
#'
#' @param x A records table, from [read_records()] or [as_records()].
#' @return `account()` gives the account, an object that prints as a short page
#'   and holds, among others, `sources` (a tibble of `source`, a file, and
#'   `rows`), `rows_read`, `rows_used`, `rows_merged` (used rows that became
#'   part of another by the rule for duplicates), `set_aside`, `missing` (a
#'   tibble of `measure`, `reason`, `count`), `first` and `last` (times),
#'   `cadence` (in words, that of each series where they differ), `duplicates`
#'   (rows with the series and time of another: `identical`, `conflicting`),
#'   `out_of_order` (rows earlier than one of their series before them), `gaps`
#'   (the longest: series columns, `after`, `before`, `missing` slots of the
#'   series' cadence) and `suspicious` (`measure`, `what`). [as.data.frame()]
#'   turns it into one row per fact with the columns `fact`, `count` (a number,
#'   or `NA`) and `text`.
#'
#'   `rows_set_aside()` gives a tibble with one row for each row that was set
#'   aside: `source` (file), `line` (of a text file, the row of a workbook, the
#'   number of the record elsewhere; counted from 1), `column`, `text` (as it
#'   stood there) and `reason`.
#' @section Errors: `backfill_error_input` where `x` is not a records table.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' account(crossings)
#' rows_set_aside(crossings)
#' @export
account <- function(x) {
  check_given()
  source_account(x)
}

# The account of what was read; of a source that is read when it is first asked
# for, after that.
source_account <- function(x) UseMethod("source_account")

#' @export
source_account.backfill_chunked <- function(x) collected(x)$account

#' @export
source_account.default <- function(x) {
  check_records(x)
  role <- facts(x)
  account <- role$account
  gone <- (role$rows %||% nrow(x)) - nrow(x)
  if (gone > 0) {
    account$notes <- c(account$notes, sprintf(
      "%s of %s are kept; %s left out by other means than keep_dates().",
      thousands(nrow(x)), count_of(role$rows, "row"),
      if (gone == 1) "1 was" else paste(thousands(gone), "were")
    ))
  }
  if (nrow(x) == 0) {
    return(account)
  }
  x <- last_versions(x)
  when <- x[[role$when]]
  table <- zone_table_of(when, role$zone)
  index <- series_index(plain_tibble(x), role$series)
  survey <- function(when, of) {
    survey_times(
      one_part(when, of), unit_of_times(when), nrow(index$names), table
    )
  }
  valued <- has_value(plain_tibble(x)[plain_names(x)], nrow(x))
  cadences <- proven_cadences(
    survey(when, index$index),
    if (!all(valued)) survey(when[valued], index$index[valued]),
    role$kept, table
  )
  account$cadence <- describe_cadences(cadences, index$names)
  account$series <- nrow(index$names)
  repeats <- find_repeats_cpp(when, index$index)
  account$out_of_order <- if (isTRUE(account$across)) 0L else
    repeats$out_of_order
  if (anyNA(account$duplicates)) {
    same <- as.logical(same_figures(
      plain_tibble(x), names(plain_measures(role$measures)), repeats
    ))
    account$duplicates <- c(sum(same), sum(!same))
  }
  sorted <- order(index$index, as.numeric(when), method = "radix")
  account$gaps <- longest_gaps(when, index, sorted, cadences, table)
  account$suspicious <- suspicious_values(
    plain_tibble(x), role$measures, index, sorted
  )
  account
}

#' @rdname account
#' @export
rows_set_aside <- function(x) {
  check_given()
  account <- facts(x)$account %||% source_account(x)
  account$set_aside
}

# `missing` is a list by measure of counts by reason; `rejected` is a tibble as
# rows_set_aside() gives it; `ends` are the first and last time, or NULL;
# `notes` say in sentences how the file was read.
new_account <- function(
  sources, rejected, merged, missing, ends, duplicates, blank, notes
) {
  counts <- unlist(lapply(missing, unname))
  reasons <- unlist(lapply(missing, names))
  rows_read <- sum(sources$rows)
  structure(
    list(
      sources = sources, rows_read = rows_read,
      rows_used = rows_read - nrow(rejected), rows_merged = merged,
      set_aside = rejected,
      missing = new_rows(
        measure = rep(names(missing), lengths(missing)),
        reason = as.character(reasons), count = as.integer(counts)
      ),
      first = ends[1], last = ends[2], duplicates = duplicates,
      blank_lines = blank, notes = notes
    ),
    class = "backfill_account"
  )
}

new_rejected <- function(
  source = character(), line = integer(), column = character(),
  text = character(), reason = character()
) {
  new_rows(
    source = source, line = line, column = column, text = text, reason = reason
  )
}

#' @export
as.data.frame.backfill_account <- function(x, ...) {
  reasons <- table(x$set_aside$reason)
  fact <- function(fact, count = NA, text = "") {
    data.frame(fact = fact, count = as.numeric(count), text = text)
  }
  some <- function(rows, ...) if (rows > 0) fact(...)
  rbind(
    fact(sprintf("rows of %s", basename(x$sources$source)), x$sources$rows),
    fact(
      c("rows read", "rows used", "rows set aside"),
      c(x$rows_read, x$rows_used, nrow(x$set_aside))
    ),
    some(length(reasons), sprintf("set aside: %s", names(reasons)), reasons),
    fact(
      c("rows merged into another", "blank lines"),
      c(x$rows_merged, x$blank_lines)
    ),
    some(
      nrow(x$missing),
      sprintf("%s missing: %s", x$missing$measure, x$missing$reason),
      x$missing$count
    ),
    fact(c("duplicates, identical", "duplicates, in conflict"), x$duplicates),
    if (!is.null(x$first)) {
      fact(c("first", "last"), NA, moments_in_words(c(x$first, x$last)))
    },
    if (!is.null(x$cadence)) {
      rbind(
        fact("series", x$series), fact("cadence", NA, x$cadence), fact(
          "rows out of order", x$out_of_order
        ),
        some(nrow(x$gaps), "gap", NA, gaps_in_words(x$gaps)),
        some(
          nrow(x$suspicious), "suspicious", NA,
          paste(x$suspicious$measure, x$suspicious$what, sep = ": ")
        )
      )
    },
    some(length(x$notes), "read as", NA, x$notes)
  )
}

# Several accounts as one.
join_accounts <- function(accounts) {
  all <- function(name) lapply(accounts, `[[`, name)
  sources <- vctrs::vec_rbind(!!!all("sources"))
  rows <- tapply(
    sources$rows, factor(sources$source, unique(sources$source)), sum
  )
  missing <- vctrs::vec_rbind(!!!all("missing"))
  counted <- vctrs::vec_group_loc(missing[c("measure", "reason")])
  missing <- new_rows(
    counted$key,
    count = vapply(counted$loc, function(at) sum(missing$count[at]), 0L)
  )
  out <- accounts[[1]]
  out$sources <- new_rows(source = names(rows), rows = as.integer(rows))
  out$set_aside <- vctrs::vec_rbind(!!!all("set_aside"))
  out$missing <- missing
  for (name in c("rows_read", "rows_used", "rows_merged", "blank_lines")) {
    out[[name]] <- sum(unlist(all(name)))
  }
  out$duplicates <- Reduce(`+`, all("duplicates"))
  out$first <- min(do.call(c, all("first")))
  out$last <- max(do.call(c, all("last")))
  out$notes <- join_notes(all("notes"))
  out
}

# Notes that differ by the rows that they count are added up.
join_notes <- function(notes) {
  notes <- unlist(notes)
  form <- gsub("[0-9,]+ rows?", "# rows", notes)
  vapply(unique(form), function(one) {
    same <- notes[form == one]
    counts <- regmatches(same, gregexpr("[0-9,]+(?= rows?)", same, perl = TRUE))
    total <- Reduce(
      `+`, lapply(counts, function(count) as.numeric(gsub(",", "", count)))
    )
    for (count in total) {
      one <- sub("# rows", count_of(count, "row"), one, fixed = TRUE)
    }
    one
  }, "", USE.NAMES = FALSE)
}
