# What the calculated columns of a table say.

describe_added <- function(x) {
  added <- facts(x)$added
  added <- added[intersect(names(added), names(x))]
  # Those of a projection are told with it.
  added <- Filter(function(note) note$verb != "interval", added)
  unlist(lapply(names(added), function(name) {
    note <- added[[name]]
    c(describe_latest(x, name, note), describe_withheld(x[[name]], name, note))
  }))
}

# The reasons were counted when the column was added; of a part of that table
# they would be too many.
describe_withheld <- function(column, name, note) {
  withheld <- note$withheld[note$withheld > 0]
  absent <- sum(is.na(column))
  if (absent == 0) {
    return(NULL)
  }
  reasons <- if (absent == sum(withheld)) {
    paste0(": ", reasons_in_words(names(withheld), withheld))
  } else {
    " here"
  }
  sprintf("No %s is given for %s%s.", name, count_of(absent, "row"), reasons)
}

reasons_in_words <- function(reason, rows) {
  in_words(if (length(rows) == 1) {
    reason
  } else {
    sprintf("%s (%s)", reason, thousands(rows))
  })
}

# The latest figure of each series, or of each measure's highest and lowest
# where there are many.
describe_latest <- function(x, name, note) {
  known <- which(!is.na(x[[name]]))
  if (length(known) == 0) {
    return(NULL)
  }
  if (note$verb == "bands") {
    return(describe_bands(x[[name]][known], name, note))
  }
  latest <- known[x$period[known] == max(x$period[known])]
  line <- line_names(x)[latest]
  figure <- x[[name]][latest]
  said <- unlist(lapply(
    split(seq_along(latest), x$measure[latest]),
    function(rows) {
      said <- paste(line[rows], trimws(format_cells(figure[rows], note$unit)))
      ends <- c(which.max(figure[rows]), which.min(figure[rows]))
      if (length(latest) <= 8) {
        said
      } else {
        paste(c("highest", "lowest"), said[ends])
      }
    }
  ))
  c(
    sprintf("Latest %s (%s, %s): %s.", note_in_words(note), name,
            period_label(x$period[latest[[1]]], facts(x)$calendar), in_words(
              said
            )),
    if (isTRUE(note$target)) {
      sprintf(
        "%s looks ahead: it can be a target, but it explains nothing.",
        name
      )
    },
    if (isTRUE(note$enlarged$n > 0)) {
      sprintf(
        paste(
          "Periods are missing in the windows of %s of %s: what there is was",
          "enlarged to the whole window, by up to %.0f%%."
        ),
        count_of(note$enlarged$n, "figure"), name,
        100 * note$enlarged$most
      )
    },
    if (isTRUE(note$longer > 0)) {
      sprintf(
        "Of %s %s more than one period, back to the latest whole value.", name,
        if (note$longer == 1) {
          "1 figure spans"
        } else {
          paste(count_of(note$longer, "figure"), "span")
        }
      )
    }
  )
}

describe_bands <- function(band, name, note) {
  counts <- table(band)
  sprintf("Bands of %s (%s): %s.", note$of, name,
          in_words(sprintf(
            "%s %s", names(counts), thousands(as.vector(counts))
          )))
}
