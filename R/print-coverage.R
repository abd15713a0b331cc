# From what coverage on periods are complete, and how much these lack.

# How complete was judged, and what to do where that leaves much out.
describe_cadence <- function(x, partial) {
  role <- facts(x)
  if (all(is_irregular(role$cadences$cadences))) {
    return("Records come irregularly, so coverage is not known.")
  }
  rule <- sprintf(
    "Records come one per %s; %s is complete %s a coverage of %s.",
    cadences_in_words(role$cadences),
    with_article(period_noun(role$calendar)), if (is.null(role$joined)) {
      "from"
    } else {
      "where each series put together reaches"
    }, enough_in_words(role)
  )
  thin <- which(x[["standing"]] == "complete" & x[["coverage"]] < 1)
  if (length(thin) > 0) {
    most <- 1 - min(x[["coverage"]][thin])
    most <- if (most < 0.001) {
      "less than 0.1%"
    } else {
      coverage_in_words(most)
    }
    rule <- paste(rule, if (length(thin) == 1) {
      sprintf("1 of the complete values lacks %s of its records.", most)
    } else {
      sprintf(
        "%s of the complete values lack up to %s of their records.",
        thousands(length(thin)), most
      )
    })
  }
  less <- less_in_words(less_would_do(x, which(partial)))
  rule <- paste(c(rule, less), collapse = " ")
  left <- sum(partial & x[["coverage"]] < 0.75, na.rm = TRUE)
  if (left > 2 && left > sum(x[["standing"]] == "complete")) {
    rule <- glue(
      "{rule} If records are events that come when they come, say so:",
      "`cadence` is then \"irregular\"."
    )
  }
  rule
}

# Where measures have cadences of their own, by measure alone if series do not.
cadences_in_words <- function(known) {
  measure <- known$names[["measure"]]
  if (!is.null(measure)) {
    first <- !duplicated(data.frame(measure, known$cadences$words))
    if (!anyDuplicated(measure[first])) {
      known <- lapply(known[c("names", "cadences")], vctrs::vec_slice, first)
      known$names <- known$names["measure"]
    }
  }
  describe_cadences(known$cadences, known$names)
}

coverage_in_words <- function(share) sub("\\.0%", "%", format_coverage(share))

# From which coverage on a period is complete, of each kind of measure.
enough_in_words <- function(role) {
  if (!is.null(role$enough)) {
    return(coverage_in_words(role$enough))
  }
  each <- vapply(role$measures, function(one) enough_of(NULL, one), 0)
  kinds <- vapply(role$measures, `[[`, "", "kind")
  said <- unique(coverage_in_words(each))
  if (length(said) > 1) {
    said <- unique(sprintf("%s (%s)", coverage_in_words(each), kinds))
  }
  paste0(
    in_words(said, last = " or "),
    if (any(each < 1)) ", unless the records begin or end within it"
  )
}

# Sums of four weeks beside those of five, or of 52 beside 53.
describe_weeks <- function(x) {
  calendar <- facts(x)$calendar
  sums <- vapply(facts(x)$measures, function(one) one$use == "sum", NA)
  if (base_of(calendar) != "week month" || !any(sums)) {
    return(NULL)
  }
  number <- unique(period_number(x$period, calendar))
  days <- days_of_periods(number, calendar, calendar, FALSE)
  weeks <- sort(unique(days %/% 7L))
  if (length(weeks) > 1) glue(
    "They have {in_words(weeks, last = ' or ')} weeks, which alone moves a sum",
    "by up to {share_in_words(max(weeks) / min(weeks) - 1)}; add_per_day()",
    "makes them comparable."
  )
}
