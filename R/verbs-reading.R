# Text of columns and measures, as the command line has it.

# "date=Day" to c(date = "Day"). A name may hold a "=" itself where what stands
# before it is no part.
named_parts <- function(texts) {
  part <- sub("=.*", "", texts)
  has <- grepl("=", texts, fixed = TRUE) & part %in% date_parts
  if (!any(has)) {
    return(texts)
  }
  stats::setNames(
    ifelse(has, sub("^[^=]*=", "", texts), texts), ifelse(has, part, "")
  )
}

# "tide:flow:boardings" to list(tide = measure("flow", "boardings")). A name
# may hold colons itself.
named_measures <- function(texts) {
  form <- sprintf(
    "^(.+?):(%s)(?::(.+))?$", paste(measure_kinds, collapse = "|")
  )
  parts <- regmatches(texts, regexec(form, texts, perl = TRUE))
  odd <- texts[lengths(parts) == 0]
  if (length(odd) > 0) {
    stop_kindless(odd[[1]])
  }
  measures <- lapply(parts, function(part) {
    if (part[[3]] != "ratio") {
      return(measure(part[[3]], unit = if (nzchar(part[[4]])) part[[4]]))
    }
    of <- regmatches(
      part[[4]], regexec("^(.+?)/(.+?)(?::(.+))?$", part[[4]], perl = TRUE)
    )[[1]]
    if (length(of) == 0) {
      abort_backfill(
        "usage",
        "`measure` is \"{part[[1]]}\", a ratio that does not say of what.",
        i = "It must be such as \"{part[[2]]}:ratio:guest_nights/residents\"."
      )
    }
    measure(
      "ratio", unit = if (nzchar(of[[4]])) of[[4]], of = of[[2]], per = of[[3]]
    )
  })
  stats::setNames(measures, vapply(parts, `[[`, "", 2))
}

stop_kindless <- function(text) {
  if (grepl(":", text, fixed = TRUE)) {
    measure(sub(".*:", "", text)) # which says what kinds there are
  }
  abort_backfill(
    "usage", "`measure` is \"{text}\", which names no kind.",
    i = "It must be such as \"{text}:flow\" or \"{text}:level\"."
  )
}
