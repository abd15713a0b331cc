#' @export
print.backfill_records <- function(x, n = 10, ...) {
  role <- facts(x)
  measures <- sprintf(
    "%s (%s)", names(role$measures), vapply(role$measures, format, "")
  )
  writeLines(c(
    wrapped(c(
      describe_intake(role$account),
      sprintf("Measures: %s.", in_words(measures))
    )),
    ""
  ))
  shown <- first_rows_of(x, n)
  fit <- columns_that_fit(shown)
  text <- format_table(shown[fit])
  left <- setdiff(names(x), fit)
  writeLines(c(
    cli::style_bold(text[[1]]), text[-1], more_rows(nrow(x) - n),
    if (length(left) > 0) wrapped(sprintf(
      "... %s: %s.", count_of(length(left), "more column"), in_words(left, 6)
    ))
  ))
  invisible(x)
}

# The names of the first columns that have room beside each other.
columns_that_fit <- function(data, room = cli::console_width()) {
  width <- vapply(names(data), function(name) {
    max(nchar(format_table(data[name]), type = "width")) + 2
  }, 0)
  names(data)[seq_len(max(1, sum(cumsum(width) - 2 <= room)))]
}

#' @export
print.backfill_account <- function(x, n = 10, ...) {
  writeLines(intake_page(x, n))
  invisible(x)
}

# The whole account: the rows, how they were read, how often they come, and what
# looks odd.
intake_page <- function(x, n = 10) {
  c(
    intake_text(x, n, "rows_set_aside() gives all."),
    if (!is.null(x$cadence)) {
      c(if (nrow(x$set_aside) > 0) "", wrapped(describe_look(x)))
    }
  )
}

# The rows of the account as lines of text: sentences, then the first `n` rows
# set aside; `rest` says how to get the others.
intake_text <- function(x, n, rest) {
  aside <- x$set_aside
  more <- nrow(aside) - n
  shown <- utils::head(aside, n)
  shown$text <- short_text(shown$text, 40)
  if (all(is.na(shown$line))) {
    shown$line <- NULL # a database has none
  } else if (nrow(x$sources) > 1) {
    shown$line <- sprintf("%s:%d", basename(shown$source), shown$line)
  }
  c(
    wrapped(describe_intake(x, reasons = more > 0)),
    if (nrow(aside) > 0) {
      c("", format_table(shown[intersect(
        c("line", "column", "text", "reason"), names(shown)
      )]))
    },
    if (more > 0) sprintf("... %s; %s", count_of(more, "more row"), rest)
  )
}

# Why rows were set aside, whatever line they repeat.
reasons_of_rows <- function(account) {
  sub(" as line [0-9]+$", " as another line", account$set_aside$reason)
}

# The account in sentences, with the `reasons` for which rows were set aside
# unless these are shown themselves.
describe_intake <- function(x, reasons = TRUE) {
  aside <- nrow(x$set_aside)
  counts <- sort(table(reasons_of_rows(x)), decreasing = TRUE)
  span <- if (!is.null(x$first)) {
    glue(", from {moments_in_words(x$first)} to {moments_in_words(x$last)}")
  }
  files <- nrow(x$sources)
  missing <- if (nrow(x$missing) > 0) {
    of_measure <- split(
      seq_len(nrow(x$missing)),
      factor(x$missing$measure, unique(x$missing$measure))
    )
    each <- vapply(of_measure, function(rows) {
      reason <- x$missing$reason[rows]
      plain <- reason %in% c("blank", part_missing)
      reason <- ifelse(plain, reason, quoted(reason))
      counts <- paste(thousands(x$missing$count[rows]), reason)
      sprintf("%s (%s)", x$missing$measure[[rows[[1]]]], toString(counts))
    }, "")
    sprintf("Missing values, kept as such: %s.", in_words(each))
  }
  source <- in_words(basename(x$sources$source), 4)
  c(
    sprintf("%s: %s read, %s used%s, %s set aside.",
            if (files == 1) source else sprintf("%d files (%s)", files, source),
            count_of(x$rows_read, "row"), thousands(x$rows_used), paste0(
              span, ""
            ),
            if (aside == 0) "none" else thousands(aside)),
    if (reasons && aside > 0) {
      sprintf(
        "Set aside: %s.",
        in_words(sprintf("%s (%d)", names(counts), as.integer(counts)), 8)
      )
    },
    missing,
    describe_duplicates(x),
    if (x$blank_lines > 0) {
      sprintf("Left out: %s.", count_of(x$blank_lines, "blank line"))
    },
    x$notes
  )
}

describe_duplicates <- function(x) {
  count <- sum(x$duplicates)
  if (is.na(count) || count == 0) {
    return(NULL)
  }
  settled <- if (x$rows_merged > 0) "they are made one record with it" else
    if (any(grepl("^the same series and time", x$set_aside$reason))) {
      "one of each is kept"
    } else {
      "all are kept"
    }
  glue(
    "{count_of(count, 'row has', 'rows have')} the series and time of another",
    "({thousands(x$duplicates[[1]])} with the same figures,",
    "{thousands(x$duplicates[[2]])} with others); {settled}."
  )
}

# What an analyst wants to know before the first figure.
describe_look <- function(x) {
  gaps <- x$gaps
  brief <- nrow(gaps) > 0 && all(gaps$missing == 1)
  c(
    sprintf(
      "%s; records come %s%s.", count_of(x$series, "series", "series"),
      if (x$cadence == "irregular") {
        "irregularly"
      } else {
        paste("one per", x$cadence)
      },
      if (brief) "; no gap is longer than 1 record" else ""
    ),
    if (x$out_of_order > 0) {
      sprintf(
        "%s out of order: %s above an earlier row of the same series.",
        count_are(x$out_of_order, "row"),
        if (x$out_of_order == 1) "it stands" else "each stands"
      )
    },
    if (nrow(gaps) > 0 && !brief) {
      sprintf("Longest gaps: %s.", in_words(gaps_in_words(gaps)))
    },
    describe_suspicious(x)
  )
}

describe_suspicious <- function(x) {
  sprintf("Look at %s: %s.", x$suspicious$measure, x$suspicious$what)
}

short_text <- function(x, most) {
  x <- encodeString(x)
  long <- nchar(x) > most
  x[long] <- paste0(substr(x[long], 1, most - 3), "...")
  x
}

#' @export
print.backfill_measure <- function(x, ...) {
  writeLines(paste("A measure:", plain_format(x)))
  invisible(x)
}
