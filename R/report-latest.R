# The latest figures of a column that was added, and growth, as a sentence.

# Such as "Moving mean of kilos over 12 months in November 2031: Anchor 786,
# Hearth 3,654" of each measure.
latest_by_measure <- function(x, rows, name, note) {
  now <- x$period[rows] == max(x$period[rows])
  at <- rows[now]
  measure <- x$measure[at]
  said <- vapply(unname(split(at, factor(measure, unique(measure)))), function(
    own
  ) {
    called <- measures_in_words(x$measure[[own[[1]]]], facts(x))
    latest_in_words(own, x, name, note, called)
  }, "")
  earlier <- sum(!now)
  if (earlier > 0) {
    said[length(said)] <- sprintf(
      "%s (%s earlier)", said[length(said)],
      count_of(earlier, "series ends", "series end")
    )
  }
  paste0(said, ".")
}

latest_in_words <- function(rows, x, name, note, measure) {
  of <- if (note$of == "value") measure else gsub("_", " ", note$of)
  calendar <- facts(x)$calendar
  period <- period_label(max(x$period[rows]), calendar)
  if (is_past_growth(note)) {
    return(grown_in_words(rows, x, name, of, span_in_words(note, period)))
  }
  sprintf(
    "%s %s %s: %s", sentence_case(note_in_words(note, of)),
    tolower(preposition_of(calendar)), period,
    figures_in_words(rows, x, name, note)
  )
}

is_past_growth <- function(note) {
  note$verb == "growth" && note$as == "percent" && !note$target
}

# "over the year to November 2031"
span_in_words <- function(note, period) {
  sprintf("over the %s to %s", sub("^1 ", "", note$span), period)
}

# "Nights over the year to November 2031: Hearth grew by 7.3%, ...", those that
# grew most first; of many how many did, and the first and the last.
grown_in_words <- function(rows, x, name, of, span, most = 4) {
  rows <- rows[order(-x[[name]][rows])]
  did <- grew_by(x[[name]][rows])
  if (length(facts(x)$series) == 0) {
    return(sprintf("%s %s %s", sentence_case(of), did, span))
  }
  who <- names_of_lines(vctrs::vec_slice(keys_of(x), rows), FALSE)
  if (length(rows) > most) {
    return(sprintf(
      "%s %s: %s of %s series grew; changes run %s", sentence_case(of), span,
      thousands(sum(x[[name]][rows] > 0)), thousands(length(rows)),
      figures_in_words(rows, x, name, list(unit = "%"))
    ))
  }
  said <- vapply(split(seq_along(did), sub(" .*", "", did)), function(own) {
    together_in_words(who[own], did[own])
  }, "")
  sprintf(
    "%s %s: %s", sentence_case(of), span,
    paste(stats::na.omit(said[c("grew", "did", "fell")]), collapse = "; ")
  )
}

# "Hearth grew by 7.3% and Wherry by 5.8%", "Hearth and Wherry did not change"
together_in_words <- function(who, did) {
  if (grepl("^did", did[[1]])) {
    return(paste(in_words(who), did[[1]]))
  }
  in_words(paste(who, c(did[[1]], sub("^[a-z]+ ", "", did[-1]))))
}

# "grew by 7.3%" of a growth in percent.
grew_by <- function(percent) {
  amount <- sub("^[+-]", "", trimws(format_cells(abs(percent), "%")))
  ifelse(
    grepl("[1-9]", amount),
    paste(ifelse(percent > 0, "grew", "fell"), "by", amount), "did not change"
  )
}

# Of each series where they are few, else from the lowest to the highest.
figures_in_words <- function(rows, x, name, note, most = 4) {
  figure <- trimws(format_cells(x[[name]][rows], note$unit, x$measure[rows]))
  if (length(facts(x)$series) == 0) {
    return(in_words(figure))
  }
  who <- names_of_lines(vctrs::vec_slice(keys_of(x), rows), FALSE)
  if (length(rows) > 1 && length(unique(figure)) == 1) {
    return(sprintf("%s in all %d", figure[[1]], length(rows)))
  }
  if (length(rows) > most) {
    ends <- c(which.min(x[[name]][rows]), which.max(x[[name]][rows]))
    return(paste0(
      c("from ", " to "), sprintf("%s (%s)", figure, who)[ends], collapse = ""
    ))
  }
  in_words(paste(who, figure))
}
