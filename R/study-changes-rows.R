# What differs between the records, and between a table, of two runs.

records_file <- function(folder, name) {
  file.path(folder, paste0(name, "-records.csv.gz"))
}

changes_of_records <- function(name, places, sources) {
  files <- records_file(places, name)
  if (!all(file.exists(files))) {
    return(NULL)
  }
  rows <- lapply(files, records_kept)
  measures <- intersect(
    unlist(sources[[name]]$measures),
    intersect(names(rows[[1]]), names(rows[[2]]))
  )
  changes_of_rows(
    name, rows, measures, unlist(sources[[name]]$keys),
    c(
      added = "record added", gone = "record gone", moved = "record revised",
      changed = "record revised"
    )
  )
}

records_kept <- function(file) {
  scratch <- tempfile("records-")
  dir.create(scratch)
  on.exit(unlink(scratch, recursive = TRUE))
  text <- gunzip(list(path = file, shown = file), scratch)
  data.table::fread(
    file = text, sep = ",", header = TRUE, colClasses = "character",
    data.table = FALSE, na.strings = "", strip.white = FALSE,
    encoding = "UTF-8", showProgress = FALSE
  )
}

# What names the rows of results; the rest is what they say.
naming_columns <- c(
  "measure", "period", "position", "row", "column", "lag", "on", "series",
  "first", "second", "candidate", "ahead", "horizon", "within", "rank", "group",
  "from", "cycle", "type"
)

changes_of_table <- function(name, files) {
  tables <- lapply(files, read_periods)
  shared <- intersect(names(tables[[1]]), names(tables[[2]]))
  keys <- intersect(c(facts(tables[[2]])$series, naming_columns), shared)
  said <- setdiff(shared, c(keys, "score", "n_prior"))
  rows <- lapply(tables, function(table) {
    shown <- with_labels(plain_tibble(table)[shared], table)
    as.data.frame(
      lapply(exact_text(shown), as.character), optional = TRUE,
      stringsAsFactors = FALSE
    )
  })
  found <- changes_of_rows(
    name, rows, said, keys,
    c(
      added = "row added", gone = "row gone", moved = "moved",
      changed = "changed"
    ),
    plain = setdiff(said, no_amounts(tables[[2]]))
  )
  vctrs::vec_rbind(
    columns_apart(name, tables), changes_of_choices(name, tables),
    if ("flag" %in% said) as_flag_changes(found) else found
  )
}

# What the figures of each run decided: the form of a season, what each series
# is carried on by.
changes_of_choices <- function(name, tables) {
  decided <- lapply(tables, function(table) {
    made <- facts(table)$projected
    list(
      form = list(form = made$form %||% facts(table)$form),
      base = as.list(made$bases)
    )
  })
  found <- lapply(c("form", "base"), function(column) {
    rows <- lapply(decided, `[[`, column)
    if (!all(vapply(rows, function(one) is.character(one[[column]]), NA))) {
      return(NULL)
    }
    rows <- lapply(rows, as.data.frame, optional = TRUE)
    keys <- setdiff(names(rows[[2]]), column)
    words <- c(added = "", gone = "", moved = "", changed = "choice")
    changes_of_rows(name, rows, column, keys, words)
  })
  found <- vctrs::vec_rbind(no_changes(), !!!found)
  found[found$what == "choice", ]
}

# Columns that one run alone has.
columns_apart <- function(table, tables) {
  names <- lapply(tables, names)
  told <- function(columns, what) {
    none <- rep(NA_character_, length(columns))
    changes_found(
      rep(table, length(columns)), rep(what, length(columns)),
      rep("", length(columns)), columns, none, none
    )
  }
  vctrs::vec_rbind(
    told(setdiff(names[[2]], names[[1]]), "column added"),
    told(setdiff(names[[1]], names[[2]]), "column gone")
  )
}

# Columns that tell of changes, shares and counts.
no_amounts <- function(table) {
  added <- facts(table)$added
  changes <- vapply(added, function(note) {
    note$change || !is.null(note$unit)
  }, NA)
  units <- if (is_periods(table)) character() else names(column_units(table))
  c(
    names(added)[changes], units, "n", "coverage", "deviation", "percent", "sd",
    "p", "coefficient", "lower", "upper"
  )
}

# A flag that is new, or not there any more.
as_flag_changes <- function(found) {
  found <- found[found$column != "judgement", ]
  flag <- found$column == "flag"
  on <- flag & found$after %in% "TRUE"
  off <- flag & found$before %in% "TRUE"
  found$what[on] <- "flagged"
  found$what[off] <- "cleared"
  found[!flag | on | off, ]
}

# Rows of text matched by their keys, the n-th of several with the n-th.
changes_of_rows <- function(
  table, rows, columns, keys, words, plain = columns
) {
  names <- lapply(rows, row_names_of, keys, ", ")
  # Names may hold commas; what rows are matched by has none of its own.
  numbered <- lapply(rows, function(rows) {
    named <- row_names_of(rows, keys, "\x1f")
    paste(named, data.table::rowidv(list(named)), sep = "\x1f")
  })
  in_old <- match(numbered[[2]], numbered[[1]])
  added <- which(is.na(in_old))
  gone <- which(!numbered[[1]] %in% numbered[[2]])
  both <- which(!is.na(in_old))
  moved <- lapply(columns, function(column) {
    before <- rows[[1]][[column]][in_old[both]]
    after <- rows[[2]][[column]][both]
    at <- which(differs(before, after))
    figures <- is_figure(before[at]) & is_figure(after[at])
    changes_found(
      rep(table, length(at)), unname(words[c("changed", "moved")[1 + figures]]),
      names[[2]][both[at]], rep(column, length(at)), before[at], after[at],
      column %in% plain
    )
  })
  # A row that one run alone has, with its first figure.
  first <- intersect(c("value", columns), columns)[1]
  whole <- function(at, side, word) {
    figure <- rows[[side]][[first]][at] %||% rep(NA_character_, length(at))
    none <- rep(NA_character_, length(at))
    changes_found(
      rep(table, length(at)), rep(word, length(at)), names[[side]][at],
      rep(first, length(at)), if (side == 1) figure else none,
      if (side == 1) none else figure
    )
  }
  vctrs::vec_rbind(
    whole(added, 2, words[["added"]]), whole(gone, 1, words[["gone"]]), !!!moved
  )
}

# A figure, or none where there is one in the other run.
is_figure <- function(text) {
  is.na(text) | !is.na(suppressWarnings(as.numeric(text)))
}

row_names_of <- function(rows, keys, between) {
  keys <- intersect(keys, names(rows))
  if (length(keys) == 0) {
    return(rep("", nrow(rows)))
  }
  parts <- lapply(rows[keys], function(part) ifelse(is.na(part), "", part))
  do.call(paste, c(unname(parts), sep = between))
}

# As text, or as figures that are further apart than rounding brings them.
differs <- function(before, after) {
  blank <- is.na(before) | is.na(after)
  differ <- ifelse(blank, is.na(before) != is.na(after), before != after)
  at <- which(differ & !blank)
  was <- suppressWarnings(as.numeric(before[at]))
  is <- suppressWarnings(as.numeric(after[at]))
  near <- !is.na(was) & !is.na(is) & abs(is - was) <= 1e-9 * abs(was)
  differ[at[near]] <- FALSE
  differ
}
