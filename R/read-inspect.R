#' Find out how a file is to be read
#'
#' Looks at a file and guesses its layout, the column of the date and its order,
#' which columns tell series apart, which are measures, and of what kind each
#' is, with the reason for each guess. Prints the account of reading it that
#' way, and the exact call and shell line that do so, to be checked and gone on
#' with. A guess is a guess: the kinds above all are for the user to confirm. Of
#' a text file the first 4 MiB are what it goes by; the account is of all of it.
#'
#' @param file As in [read_records()].
#' @param ... Arguments of [read_records()] that are known, such as `zone`,
#'   `date_order`, `sheet` or `skip`.
#' @return An object that prints as a page and holds `columns` (a tibble:
#'   `column`, `role`, `kind`, `reason`), `call` (the call of [read_records()]
#'   as text), `shell` (the shell line), `records` (the records table that the
#'   call gives, or `NULL` where it fails) and `problem` (why it fails, or
#'   `NULL`).
#' @section Errors: As [read_records()]; `backfill_error_when` where no column
#'   holds dates.
#' @examples
#' inspect_file(demo_file("guest-nights.csv"))
#' @export
inspect_file <- function(file, ...) {
  known <- list(...)
  unknown <- setdiff(names(known), names(formals(read_records)))
  if (length(unknown) > 0 || length(known) != sum(rlang::have_name(known))) {
    abort_backfill(
      "argument",
      "What is known is given by the names of arguments of `read_records()`.",
      i = if (length(unknown) > 0) sprintf("%s is none.", in_words(unknown))
    )
  }
  raw <- inspect_source(file, known)
  check_rows(raw, caller_env())
  guess <- if (length(raw$header) > 1) guess_two_rows(raw) else
    if (dates_in_header(raw)) guess_across(raw) else guess_rows(raw)
  guess$arguments <- utils::modifyList(guess$arguments, known)
  guess$known <- names(known)
  guess$files <- if (files_overlap(raw, guess)) nrow(raw$sources) else 1L
  settled <- settle_guess(file, guess)
  structure(
    list(
      file = file, columns = settled$columns, arguments = settled$arguments,
      call = call_text(file, settled$arguments),
      shell = shell_text(file, settled$arguments), records = settled$records,
      problem = settled$problem, notes = settled$notes
    ),
    class = "backfill_inspection"
  )
}

guess_bytes <- 2^22

# The columns as they are read before anything is known of them. Of a grid all
# variables over time are taken, of a long text file the first lines.
inspect_source <- function(file, known, call = caller_env()) {
  form <- plain_form(known, guess_bytes, call)
  scratch <- tempfile("backfill-")
  dir.create(scratch)
  on.exit(unlink(scratch, recursive = TRUE))
  raw <- tryCatch(
    read_sources(file, form, known$source, scratch, call),
    backfill_error_title = identity
  )
  if (
    is.null(known$header_rows) && (
      inherits(raw, "error") || anyDuplicated(raw$header[[1]]) > 0
    )
  ) {
    form$header_rows <- 2L
    under_two <- tryCatch(
      read_sources(file, form, known$source, scratch, call),
      backfill_error = identity
    )
    if (!inherits(under_two, "error") && is_two_row_header(under_two)) {
      return(under_two)
    }
  }
  if (inherits(raw, "error")) rlang::cnd_signal(raw) else raw
}

dates_in_header <- function(raw) {
  header <- raw$header[[length(raw$header)]]
  dated <- rowSums(read_dates_cpp(header, 1969L, 1L)$outcome == 0L) > 0
  sum(dated) >= 3 && sum(dated) * 2 > length(header)
}

# Each column with a date as its header: the other ones say whose figures they
# are.
guess_across <- function(raw) {
  header <- raw$header[[1]]
  dated <- rowSums(read_dates_cpp(header, 1969L, 1L)$outcome == 0L) > 0
  span <- range(which(dated))
  beside <- header[-seq(span[[1]], span[[2]])]
  values <- stack_columns(unname(raw$data[header[dated]]))
  number <- read_number(values)$value
  by_row <- matrix(number, nrow = raw$rows)
  series <- rep(seq_len(raw$rows), ncol(by_row))
  order <- order(series)
  guess <- guess_kind("value", number[order], series[order])
  list(
    columns = tibble::tibble(
      column = c(
        beside, sprintf("%s to %s", header[span[[1]]], header[span[[2]]])
      ),
      role = c(rep("series", length(beside)), "dates across"), kind = c(
        rep("", length(beside)), guess$kind
      ),
      reason = c(rep("stands beside the dates", length(beside)),
                 sprintf("%d headers are dates; %s", sum(dated), guess$reason))
    ),
    arguments = c(
      list(measures = list(value = guess$kind)),
      if (length(beside) > 0) list(series = beside),
      list(layout = "dates across")
    ),
    notes = paste(
      "The measure is called value and the column of dates date; give them",
      "names of your own."
    )
  )
}

guess_rows <- function(raw, call = caller_env()) {
  data <- raw$data
  when <- if (is.null(raw$when)) guess_when(raw, call) else
    list(columns = raw$when, when = NULL, reason = "is the axis of time")
  rest <- setdiff(names(data), when$columns)
  figures <- rest[vapply(data[rest], holds_figures, NA)]
  other_dates <- rest[
    vapply(data[rest], share_of_dates, 0) >= 0.8 & !rest %in% figures
  ]
  texts <- setdiff(rest, c(figures, other_dates))
  moments <- key_of_moments(data, when)
  parts <- guess_series(data, texts, figures, moments)
  measures <- setdiff(figures, parts$series)
  series_id <- if (length(parts$series) > 0) {
    as.integer(vctrs::vec_group_id(vctrs::new_data_frame(data[parts$series])))
  } else {
    rep(1L, raw$rows)
  }
  order <- order(series_id, moments$order)
  kinds <- lapply(stats::setNames(nm = measures), function(name) {
    guess_kind(
      name, read_number(data[[name]], guess_mark(data[[name]]))$value[order],
      series_id[order]
    )
  })
  kind <- vapply(kinds, `[[`, "", "kind")
  columns <- c(
    when$columns, parts$series, measures,
    setdiff(rest, c(parts$series, measures))
  )
  role <- ifelse(
    columns %in% when$columns, "date",
    ifelse(columns %in% parts$series, "series",
           ifelse(columns %in% measures, "measure", "kept beside"))
  )
  beside <- columns[role == "kept beside"]
  reason <- c(
    rep(when$reason, length(when$columns)), parts$reason,
    vapply(kinds, `[[`, "", "reason"),
    ifelse(
      beside %in% other_dates,
      "holds dates too, such as the day on which a row was published",
      "is needed neither to tell series apart nor holds figures"
    )
  )
  list(
    columns = tibble::tibble(
      column = columns, role = role,
      kind = ifelse(role == "measure", kind[columns], ""),
      reason = unname(reason)
    ),
    arguments = c(
      if (!is.null(when$when)) list(when = when$when),
      list(measures = as.list(kind)),
      if (length(parts$series) > 0) list(series = parts$series)
    ),
    moments = moments$key,
    notes = c(
      if (length(other_dates) > 0) {
        sprintf(
          paste(
            "To be decided by you: %s dates as well. %s taken for the date",
            "of the figures."
          ),
          paste(in_words(quoted(other_dates)), if (length(other_dates) == 1) {
            "holds"
          } else {
            "hold"
          }),
          paste(
            in_words(quoted(unname(when$columns))),
            if (length(when$columns) == 1) {
              "is"
            } else {
              "are"
            }
          )
        )
      },
      kinds_to_decide(kinds)
    )
  )
}

# Where the values do not tell a flow from a level, the user must.
kinds_to_decide <- function(kinds) {
  open <- names(kinds)[vapply(kinds, function(guess) isTRUE(guess$open), NA)]
  counted <- vapply(kinds[open], function(guess) guess$kind == "counter", NA)
  if (length(open) > 0) {
    sprintf(
      paste(
        "To be decided by you: whether %s added up over time (flow)%saveraged",
        "(level)%s."
      ),
      paste(in_words(quoted(open), 6), if (length(open) == 1) "is" else "are"),
      if (any(counted)) ", " else " or ",
      if (any(counted)) " or the reading of a meter (counter)" else ""
    )
  }
}

# Whether several files hold figures for the same moments, as files of a series
# each do, and stretches of one do not.
files_overlap <- function(raw, guess) {
  if (nrow(raw$sources) < 2 || is.null(guess$moments)) {
    return(FALSE)
  }
  file <- rep(seq_len(nrow(raw$sources)), raw$sources$rows - tabulate(
    match(raw$rejected$source, raw$sources$source), nrow(raw$sources)
  ))
  key <- vctrs::new_data_frame(c(
    list(moment = guess$moments), raw$data[guess$arguments$series]
  ))
  at <- vctrs::vec_group_id(key)
  # A moment that two files have.
  shared <- tapply(file, at, function(x) x[[1]] != x[[length(x)]])
  mean(shared) > 0.1
}

# Runs the call, and declares what it cannot find out: an order of two, a comma
# of two meanings, rows that repeat others.
settle_guess <- function(file, guess) {
  notes <- guess$notes
  if (is.null(guess$arguments$source) && guess$files > 1) {
    # Each file may be a series, or a stretch of one.
    notes <- c(notes, sprintf(paste(
      "To be decided by you: whether the %d files are a series each, as is",
      "taken here (`source` is \"file\"), or",
      "stretches of the same one; then leave `source` out."
    ), guess$files))
    guess$arguments$source <- "file"
  }
  for (attempt in 1:4) {
    read <- tryCatch(
      do.call(read_records, c(list(file), guess$arguments)),
      backfill_error = identity
    )
    if (!inherits(read, "error")) {
      return(c(guess[c("columns", "arguments")],
               list(
                 records = read, problem = NULL,
                 notes = c(notes, zone_note(read, guess$arguments))
               )))
    }
    if (isTRUE(read$argument %in% guess$known)) {
      # What the user said himself is no guess.
      rlang::cnd_signal(read)
    }
    more <- read$choices
    if (is.null(more) || names(more) %in% names(guess$arguments)) {
      break
    }
    guess$arguments <- c(guess$arguments, more)
    notes <- c(
      notes,
      sprintf("To be decided by you: %s `%s` is set to %s for now.",
              sub("\n.*", "", conditionMessage(read)), names(more), code_text(
                more[[1]]
              ))
    )
  }
  c(
    guess[c("columns", "arguments")],
    list(records = NULL, problem = rlang::cnd_message(read), notes = notes)
  )
}

# Times that repeat in the night to a Sunday are mostly those of a clock that
# was put back.
zone_note <- function(records, arguments) {
  when <- records[[facts(records)$when]]
  if (!is.null(arguments$zone) || inherits(when, "Date")) {
    return(NULL)
  }
  twice <- as.POSIXlt(
    when[
      vctrs::vec_duplicate_detect(
        as.list(plain_tibble(records))[[facts(records)$when]]
      )
    ]
  )
  put_back <- length(twice) > 0 && length(facts(records)$series) == 0 && all(
    twice$wday == 0 & twice$hour < 4
  )
  if (put_back) {
    paste(
      "Times repeat on Sundays at night, as where daylight saving ends: if",
      "a clock showed them, say of which `zone`."
    )
  } else if (all(as.numeric(when) %% 86400 == as.numeric(when[[1]]) %% 86400)) {
    NULL
  } else {
    paste(
      "Times are taken for UTC; if they are those of a clock with daylight",
      "saving, say of which `zone`."
    )
  }
}

call_text <- function(file, arguments) {
  plain <- lapply(arguments, function(x) if (is.list(x)) unlist(x) else x)
  lines <- vapply(
    names(plain),
    function(name) sprintf("%s = %s", name, code_text(plain[[name]])), ""
  )
  first <- if (!is.character(file)) "connection" else
    if (length(file) == 1) code_text(file) else
      c(
        "c(",
        paste0("    ", code_text_each(file), c(rep(",", length(file) - 1), "")),
        "  )"
      )
  first[[1]] <- paste0("read_records(", first[[1]])
  first[[length(first)]] <- paste0(first[[length(first)]], ",")
  c(first, paste0("  ", lines, c(rep(",", length(lines) - 1), "")), ")")
}

code_text_each <- function(x) {
  if (is.character(x)) {
    encodeString(x, quote = "\"")
  } else {
    plain_format(x)
  }
}

code_text <- function(x) {
  values <- code_text_each(x)
  named <- if (is.null(names(x))) values else
    paste(
      ifelse(
        names(x) == make.names(names(x)), names(x),
        encodeString(names(x), quote = "`")
      ),
      "=", values
    )
  if (length(x) == 1 && is.null(names(x))) {
    named
  } else {
    sprintf("c(%s)", paste(named, collapse = ", "))
  }
}

shell_text <- function(file, arguments) {
  quoted_word <- function(x) {
    if (grepl("[^[:alnum:]_./:=,-]", x)) {
      shQuote(x)
    } else {
      x
    }
  }
  options <- unlist(lapply(names(arguments), function(name) {
    value <- arguments[[name]]
    words <- if (name == "measures") paste(
      names(value), unlist(value), sep = ":"
    ) else
      if (!is.null(names(value))) paste(names(value), value, sep = "=") else
        if (is.logical(value)) {
          if (value) "yes" else "no"
        } else {
          as.character(value)
        }
    if (name == "cells" && is.numeric(value)) {
      words <- paste(value, collapse = ",")
    }
    option <- c(measures = "measure")[name]
    paste0(
      "--", gsub("_", "-", if (is.na(option)) name else option), " ",
      vapply(words, quoted_word, "")
    )
  }))
  # A name that starts with a dash would be taken for an option.
  files <- if (is.character(file)) {
    ifelse(grepl("^-.", file), file.path(".", file), file)
  } else {
    "FILE"
  }
  files <- vapply(files, quoted_word, "", USE.NAMES = FALSE)
  c(paste(c("backfill periods", rep(" ", length(files) - 1)), files, "\\"),
    paste0("  ", options, c(rep(" \\", length(options) - 1), "")))
}
