# What a result says in a sentence or two to a colleague, who knows none of our
# columns, arguments and labels of periods.
finding_of <- function(x) paste(sentences_of_finding(x), collapse = " ")

sentences_of_finding <- function(x) {
  if (!inherits(x, "backfill_table") || is_read(x)) {
    return(sentences_of(x)[[1]])
  }
  said <- for_a_colleague(stats::na.omit(headline(x)))
  if (length(said) == 0) sentences_of(x)[[1]] else plain_words(said, x)
}

# Without the sentences that name a function, which are for those who type it.
for_a_colleague <- function(said) {
  vapply(strsplit(said, "(?<=[.]) (?=[A-Z])", perl = TRUE), function(each) {
    typed <- grepl("\\b[a-z_]+[(][)]", each)
    paste(if (all(typed)) each else each[!typed], collapse = " ")
  }, "")
}

# The weightiest findings of a run, each after its name; a table in which
# nothing was sought has none.
findings_in_short <- function(run, most = 7) {
  results <- Filter(function(x) {
    inherits(x, "backfill_table") && !is_read(x) && report_weight(x) > 1
  }, facts(run)$results)
  weight <- vapply(results, report_weight, 0)
  results <- utils::head(results[order(-weight)], most)
  name <- names(results)
  sprintf("%s: %s", name, run$finding[match(name, run$name)])
}

# Whose figures they are as people say it ("guest nights of Anchor"), names of
# measures without underlines, and labels of periods as people write them,
# unless a series is named like one.
plain_words <- function(said, x) {
  about <- facts(x)
  said <- lines_in_words(said, x)
  measures <- names(about$measures)
  called <- measures_in_words(measures, about)
  # At the start of a sentence.
  first <- lapply(measures, function(name) startsWith(said, name))
  first <- Reduce(`|`, first, logical(length(said)))
  said[first] <- sentence_case(said[first])
  measures <- c(measures, sentence_case(measures))
  called <- c(called, sentence_case(called))
  for (i in which(called != measures)) {
    said <- name_replaced(said, measures[[i]], called[[i]])
  }
  dated <- "[0-9]{4}-(0[1-9]|1[0-2]|W|Q)"
  if (any(grepl(dated, unlist(lapply(as.list(x)[about$series], unique))))) {
    return(said)
  }
  labels_in_words(times_of_day_in_words(said))
}

# "14:00 on 2031-04-09" of an instant's label; of what zone is said elsewhere.
times_of_day_in_words <- function(said) {
  day <- "([0-9]{4}-[01][0-9]-[0-3][0-9])"
  clock <- "([0-2][0-9]:[0-5][0-9](?::[0-9.]*[0-9])?)"
  gsub(
    sprintf("\\b%sT%s(?:[+-][0-9]{2}:[0-9]{2}|Z)?", day, clock),
    "\\2 on \\1", said, perl = TRUE
  )
}

# Not within another word, nor within what has the name already.
name_replaced <- function(said, name, by) {
  aside <- "\u0001"
  said <- gsub(by, aside, said, fixed = TRUE)
  plain <- gsub("\\E", "\\E\\\\E\\Q", name, fixed = TRUE)
  whole <- sprintf("(?<![\\w.])\\Q%s\\E(?!\\w|[.]\\w)", plain)
  said <- gsub(whole, aside, said, perl = TRUE)
  gsub(aside, by, said, fixed = TRUE)
}

# The same of lines that are named in pairs, "Anchor / guest_nights".
words_of_pairs <- function(x) {
  columns <- as.list(x)[intersect(c("first", "second"), names(x))]
  lines <- as.character(unique(unlist(lapply(columns, as.character))))
  measures <- facts(x)$measures
  if (is.list(measures)) measures <- names(measures)
  measure <- vapply(lines, function(line) {
    c(measures[endsWith(line, paste(" /", measures))], NA_character_)[[1]]
  }, "")
  lines <- lines[!is.na(measure)]
  measure <- measure[!is.na(measure)]
  series <- substr(lines, 1, nchar(lines) - nchar(measure) - 3)
  about <- list(measures = if (is.list(facts(x)$measures)) facts(x)$measures)
  words <- sprintf("%s of %s", measures_in_words(measure, about), series)
  stats::setNames(words, lines)
}

# Where a line is named by its series and its measure.
lines_in_words <- function(said, x) {
  words <- c(if (is_of_lines(x)) words_of_lines(x), words_of_pairs(x))
  # Few of many stand in a sentence.
  if (length(words) == 0) {
    return(said)
  }
  all <- paste(said, collapse = " ")
  there <- words[vapply(names(words), grepl, NA, x = all, fixed = TRUE)]
  for (name in names(there)[order(-nchar(names(there)))]) {
    first <- startsWith(said, name)
    said[first] <- paste0(
      sentence_case(words[[name]]), substring(said[first], nchar(name) + 1)
    )
    said <- gsub(name, words[[name]], said, fixed = TRUE)
  }
  said
}
