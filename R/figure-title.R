# The title of a figure of periods: what is drawn, and what became of its
# records.

figure_title <- function(x, panels, of) {
  note <- facts(x)$added[[of]]
  measures <- facts(x)$measures[unique(x$measure)]
  if (!is.null(facts(x)$basket)) measures$basket$use <- "parts"
  if (!is.null(note) && note$verb != "bands") {
    # A panel is called by its unit, which one measure alone is not.
    one_unit <- length(panels) == 1 && length(measures) > 1
    of <- if (note$of != "value") {
      gsub("_", " ", note$of)
    } else if (one_unit) {
      panels
    } else {
      in_words(measures_in_words(names(measures), facts(x)))
    }
    return(sentence_case(note_in_words(note, of)))
  }
  sprintf(
    "%s per %s", sentence_case(gsub("_", " ", if (of == "value") {
      measured_in_words(measures, panels)
    } else {
      of
    })), period_noun(facts(x)$calendar)
  )
}

# What is drawn and what became of its records: "total guest nights", "mean
# price (shillings)".
measured_in_words <- function(measures, panels) {
  became <- vapply(measures, words_of_use, "", "title")
  each <- ifelse(names_its_use(measures), "", became)
  called <- measures_in_words(names(measures), list(measures = measures))
  if (length(measures) == 1) {
    return(paste0(each, called, unit_beside(measures[[1]])))
  }
  if (length(panels) > 1) {
    return(in_words(paste0(each, called)))
  }
  paste0(if (length(unique(became)) == 1) became[[1]], panels)
}

# Of several statistics of one measure each has its own in its name.
names_its_use <- function(measures) {
  from <- vapply(measures, function(one) one$from %||% "", "")
  use <- vapply(measures, `[[`, "", "use")
  names(measures) == paste(from, sub("%", "", use, fixed = TRUE), sep = "_")
}

# Where the name does not say it.
unit_beside <- function(measure) {
  unit <- measure$unit
  own <- gsub("_", " ", measure$from %||% "")
  if (is.null(unit) || unit == own || measure$use %in% c("count", "slots")) {
    ""
  } else {
    sprintf(" (%s)", unit)
  }
}
