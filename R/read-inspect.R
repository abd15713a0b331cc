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
#'   call gives, or `NULL` where it fails), `problem` (why it fails, or `NULL`),
#'   `undecided` (the arguments between whose values the file does not decide)
#'   and `falls` (that of [roll_up()] for counts so far of a year or month,
#'   which start anew).
#' @section Errors: As [read_records()]; `backfill_error_when` where no column
#'   holds dates.
#' @examples
#' inspect_file(demo_file("inns.csv"))
#' @export
inspect_file <- function(file, ...) {
  check_given()
  known <- list(...)
  unknown <- setdiff(names(known), names(formals(read_records)))
  if (length(unknown) > 0 || length(known) != sum(rlang::have_name(known))) {
    abort_backfill(
      "argument",
      "What is known is given by the names of arguments of `read_records()`.",
      i = if (length(unknown) > 0) "{in_words(unknown)} is not one of them."
    )
  }
  if (length(known) == 0) check_not_written(file)
  raw <- tryCatch(
    inspect_source(file, known), backfill_error_title = function(cnd) {
      inspect_below(cnd, file, known)
    }
  )
  if (inherits(raw, "backfill_inspection")) {
    return(raw)
  }
  check_rows(raw)
  guess <- if (length(raw$header) > 1) {
    guess_two_rows(raw)
  } else if (dates_in_header(raw)) {
    guess_across(raw, part_beside(raw, known))
  } else {
    part <- if (is.null(raw$when)) part_across(raw) %||% part_beside(raw, known)
    if (is.null(part)) {
      guess_rows(raw, identical(known$layout, "series across"))
    } else {
      guess_across(raw, part)
    }
  }
  # Measures that are given are all there are, and of a kind.
  known <- Filter(Negate(is.null), known)
  guess$arguments[names(known)] <- known
  guess$arguments$series <- series_beside_items(guess$arguments)
  decided <- c(measures = "kinds", known = "known", items = "items")
  decided <- decided[names(known)]
  guess$notes <- guess$notes[!rlang::names2(guess$notes) %in% decided]
  guess$known <- names(known)
  guess$files <- if (files_overlap(raw, guess)) nrow(raw$sources) else 1L
  guess$notes <- unname(guess$notes)
  guess <- with_restarts(guess)
  lacking <- roles_lacking(file, guess$arguments)
  settled <- if (length(lacking) > 0) guess_lacking(guess, lacking) else
    settle_guess(guess, function(...) read_records(file, ...))
  structure(
    list(
      file = file, columns = settled$columns, arguments = settled$arguments,
      call = call_text(file, settled$arguments),
      shell = shell_text(file, with_falls(settled$arguments, guess$falls)),
      records = settled$records,
      problem = settled$problem, notes = settled$notes, falls = guess$falls,
      undecided = settled$undecided
    ),
    class = "backfill_inspection"
  )
}

# A file whose header is not its first line, or which has none, is looked at as
# the error says, unless the user has said otherwise; that is a note.
inspect_below <- function(cnd, file, known) {
  more <- cnd$choices
  if (is.null(more) || names(more) %in% names(known)) {
    rlang::cnd_signal(cnd)
  }
  found <- do.call(inspect_file, c(list(file), known, more))
  found$notes <- c(
    sprintf(
      "%s `%s` is therefore %d.", sub("\n.*", "", conditionMessage(cnd)),
      names(more), more[[1]]
    ),
    found$notes
  )
  found
}

guess_bytes <- 2^22

# The columns as they are read before anything is known of them. Of a grid all
# variables over time are taken, of a long text file the first lines.
inspect_source <- function(file, known) {
  form <- plain_form(known, guess_bytes)
  scratch <- tempfile("backfill-")
  dir.create(scratch)
  on.exit(unlink(scratch, recursive = TRUE))
  raw <- tryCatch(
    read_sources(file, form, known$source, scratch),
    backfill_error_title = identity
  )
  if (
    is.null(known$header_rows) && (
      inherits(raw, "error") || anyDuplicated(raw$header[[1]]) > 0
    )
  ) {
    form$header_rows <- 2L
    under_two <- tryCatch(
      read_sources(file, form, known$source, scratch), backfill_error = identity
    )
    if (!inherits(under_two, "error") && is_two_row_header(under_two)) {
      return(under_two)
    }
  }
  if (inherits(raw, "error")) rlang::cnd_signal(raw)
  raw$data <- lapply(raw$data, function(column) {
    if (is.factor(column)) as.character(column) else column
  })
  raw
}

dates_in_header <- function(raw) {
  header <- raw$header[[length(raw$header)]]
  dated <- rowSums(read_dates_cpp(header, 1969L, 1L)$outcome == 0L) > 0
  sum(dated) >= 3 && sum(dated) * 2 > length(header)
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
    list(moment = guess$moments),
    raw$data[intersect(guess$arguments$series, names(raw$data))]
  ))
  at <- vctrs::vec_group_id(key)
  # A moment that two files have.
  shared <- tapply(file, at, function(x) x[[1]] != x[[length(x)]])
  mean(shared) > 0.1
}

# What has no column of dates, or of figures, is not read.
guess_lacking <- function(guess, lacking) {
  c(guess[c("columns", "arguments", "notes")], list(
    records = NULL, undecided = character(), problem = sprintf(
      "No column holds %s.",
      in_words(c(when = "dates", measures = "figures")[lacking], last = " or ")
    )
  ))
}

# Runs the call, and declares what it cannot find out: an order of two, a comma
# of two meanings, rows that repeat others.
settle_guess <- function(guess, read_by) {
  notes <- guess$notes
  if (is.null(guess$arguments$source) && guess$files > 1) {
    # Each file may be a series, or a stretch of one.
    notes <- c(notes, sprintf(paste(
      "For you to decide: whether the %d files are a series each, as is",
      "taken here (`source` is \"file\"), or",
      "stretches of the same one; then leave `source` out."
    ), guess$files))
    guess$arguments$source <- "file"
  }
  undecided <- character()
  for (attempt in 1:4) {
    read <- tryCatch(
      do.call(read_by, guess$arguments),
      backfill_error = identity
    )
    if (!inherits(read, "error")) {
      return(c(guess[c("columns", "arguments")],
               list(
                 records = read, problem = NULL, undecided = undecided,
                 notes = c(notes, zone_note(read, guess$arguments))
               )))
    }
    if (isTRUE(read$argument %in% guess$known)) {
      # What the user said himself is not a guess.
      rlang::cnd_signal(read)
    }
    more <- read$choices
    if (is.null(more) || names(more) %in% names(guess$arguments)) {
      break
    }
    guess$arguments <- c(guess$arguments, more)
    undecided <- c(undecided, names(more))
    notes <- c(
      notes,
      sprintf("For you to decide: %s `%s` is set to %s for now.",
              sub("\n.*", "", conditionMessage(read)), names(more), code_text(
                more[[1]]
              ))
    )
  }
  c(
    guess[c("columns", "arguments")],
    list(
      records = NULL, problem = rlang::cnd_message(read), notes = notes,
      undecided = undecided
    )
  )
}

# Times that repeat in the night to a Sunday are mostly those of a clock that
# was put back.
zone_note <- function(records, arguments) {
  if (!is_records(records)) {
    return(NULL)
  }
  when <- records[[facts(records)$when]]
  known <- !is.null(arguments$zone) || "offset" %in% names(arguments$when)
  if (known || inherits(when, "Date")) {
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
