# Records of one series that are for the same instant. What they mean only the
# user can say: a file pasted twice, a correction, or events of which several
# happen on one day.

duplicate_rules <- c(
  error = "refused", keep = "kept, each a record of its own",
  distinct = "kept where any column differs",
  first = "the first is kept",
  last = "the last is kept", sum = "added up to one record",
  mean = "averaged to one record"
)

# list(data, ends, drop, of, merged, identical, conflicting): the first and last
# time, the rows to set aside and those they repeat, and how many became part of
# another. `series`, `measures` and `known` name columns; rows that were known
# on unlike days are versions.
settle_duplicates <- function(
  data, when, series, measures, rule, at, known = NULL
) {
  ends <- if (nrow(data) > 0) ends_cpp(data[[when]])
  out <- list(
    data = data, drop = integer(), of = integer(), merged = 0L,
    ends = if (!is.null(ends)) {
      like_moments(c(ends$lowest, ends$highest), data[[when]])
    },
    identical = 0L, conflicting = 0L
  )
  if (rule == "keep") {
    # All of them stay; how many they are is counted when the account is asked
    # for.
    out$identical <- out$conflicting <- NA_integer_
    return(out)
  }
  if (rule == "distinct") {
    return(drop_repeated_rows(out, when))
  }
  keys <- as.list(data)[c(series, known)]
  found <- find_repeats_cpp(data[[when]], one_key(keys))
  if (length(found$row) == 0) {
    return(out)
  }
  same <- same_figures(data, measures, found)
  out$identical <- sum(same)
  out$conflicting <- sum(!same)
  if (rule == "error") {
    stop_duplicates(data, when, series, found, same, at, known)
  }
  if (rule %in% c("sum", "mean")) {
    return(merge_duplicates(out, found, measures, rule))
  }
  out[c("drop", "of")] <- switch(
    rule, first = found[c("row", "first")], last = keep_last(found)
  )
  out
}

# Rows that are another's in every column go; of those left the same is counted
# as where all are kept.
drop_repeated_rows <- function(out, when) {
  others <- as.list(out$data)[setdiff(names(out$data), when)]
  found <- find_repeats_cpp(out$data[[when]], one_key(others))
  out[c("drop", "of")] <- found[c("row", "first")]
  out$identical <- out$conflicting <- NA_integer_
  out
}

# One column that tells series apart, or NULL where there is one series.
one_key <- function(columns) {
  if (length(columns) == 1 && is.character(columns[[1]])) {
    return(columns[[1]])
  }
  if (length(columns) > 0) {
    as.integer(vctrs::vec_group_id(vctrs::new_data_frame(columns)))
  }
}

# The last of an instant stays; all others go, each with the last as the row it
# stands for.
keep_last <- function(found) {
  group <- c(found$first, found$row)
  of <- c(found$first, found$first)
  last <- tapply(group, of, max)
  keep <- as.integer(last[as.character(of)])
  gone <- !duplicated(group) & group != keep
  list(drop = group[gone], of = keep[gone])
}

# Whether rows that repeat another have its figures.
same_figures <- function(data, measures, found) {
  Reduce(`&`, lapply(measures, function(name) {
    a <- data[[name]][found$row]
    b <- data[[name]][found$first]
    (is.na(a) & is.na(b)) | (!is.na(a) & !is.na(b) & a == b)
  }))
}

# Rows that are merged take the other columns of the first. A missing value
# among them is left out, as in any sum here.
merge_duplicates <- function(out, found, measures, rule) {
  into <- unique(found$first)
  rows <- c(into, found$row)
  group <- match(c(into, found$first), into)
  for (name in measures) {
    value <- out$data[[name]][rows]
    known <- !is.na(value)
    total <- as.numeric(rowsum(ifelse(known, value, 0), group, reorder = TRUE))
    count <- as.numeric(rowsum(as.numeric(known), group, reorder = TRUE))
    merged <- if (rule == "mean") total / count else total
    merged[count == 0] <- NA
    out$data[[name]][into] <- merged
  }
  out$merged <- length(found$row)
  out$data <- vctrs::vec_slice(out$data, -found$row)
  out
}

stop_duplicates <- function(data, when, series, found, same, at, known = NULL) {
  shown <- first_few(order(same, found$row), 3)
  lines <- sprintf(
    "Lines %d and %d: %s, %s figures.", at(found$first[shown])$line,
    at(found$row[shown])$line,
    repeated_record(data[found$row[shown], ], when, series, known),
    ifelse(same[shown], "the same", "different")
  )
  abort_backfill(
    "duplicates",
    "{count_of(length(same), 'row has', 'rows have')} the series and time of",
    "another: {thousands(sum(same))} with the same figures,",
    "{thousands(sum(!same))} with others.",
    x = "{lines}",
    i = if (length(series) == 0) {
      "Do other columns tell several series apart? Then name them in `series`."
    },
    ">" = "Say how to treat them: `duplicates` is \"keep\" where each is an",
    "event of its own, \"distinct\" where only rows that are alike in every",
    "column are one, or \"first\", \"last\", \"sum\" or \"mean\" to make one",
    "record of them.",
    if (is.null(known)) paste(
      "Or name the column with the day of publication (`known`) where they",
      "are versions of one record."
    ),
    choices = list(duplicates = "keep")
  )
}

# "2031-01 of cod / Petrel", and of versions the day on which both were known.
repeated_record <- function(rows, when, series, known) {
  parts <- lapply(unname(as.list(rows)[series]), as.character)
  paste0(
    moments_in_words(rows[[when]]),
    if (length(parts) > 0) paste(" of", do.call(paste, c(parts, sep = " / "))),
    if (!is.null(known)) {
      sprintf(", both known on %s", moments_in_words(rows[[known]]))
    }
  )
}
