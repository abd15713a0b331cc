# The falls of counters, by what they are taken as.

describe_falls <- function(x) {
  falls <- facts(x)$falls
  of <- c(intersect(facts(x)$series, names(falls)), "measure")
  there <- if (!is.null(falls)) vctrs::vec_in(falls[of], plain_tibble(x)[of])
  if (is.null(there) || !any(there)) {
    return(NULL)
  }
  falls <- vctrs::vec_slice(falls, which(there))
  taken <- falls$taken %||% rep("unknown", nrow(falls))
  each <- intersect(names(falls_in_words), taken)
  vapply(each, function(one) {
    describe_taken(vctrs::vec_slice(falls, which(taken == one)), one)
  }, "", USE.NAMES = FALSE)
}

# What was counted where a counter fell.
falls_in_words <- c(
  unknown = "falls %s, and its increase across each fall is unknown",
  count = "falls %s, which counts as a correction below zero when it was made",
  spread = paste(
    "falls %s, which is spread back over what it rose by before, in proportion"
  ),
  restart = "falls %s, and counts from 0 again afterwards",
  rollover = "starts from 0 again %s after its highest reading"
)

# A word on falls that do not look like what they are taken as.
fall_looks_like <- function(what, taken) {
  words <- switch(
    taken, unknown = c(
      reset = " (to less than half: a reset)", correction = " (a correction)"
    ),
    restart = c(correction = " (to half or more: is it a correction?)"),
    rollover = character(), c(reset = " (to less than half: is it a reset?)")
  )
  ifelse(what %in% names(words), words[what], "")
}

describe_taken <- function(falls, taken, most = 3) {
  shown <- falls[seq_len(min(nrow(falls), most)), ]
  known <- c("measure", "after", "before", "from", "to", "what", "taken")
  series <- as.list(shown)[setdiff(names(shown), known)]
  whose <- if (length(series) > 0) paste(
    " of", do.call(paste, c(unname(lapply(series, as.character)), sep = " / "))
  )
  said <- glue(
    "{shown$measure}{whose %||% ''} from {format_plain_figures(shown$from)} to",
    "{format_plain_figures(shown$to)} between {moments_in_words(shown$after)}",
    "and {moments_in_words(shown$before)}{fall_looks_like(shown$what, taken)}"
  )
  sprintf(
    "A counter %s: %s%s.",
    sprintf(falls_in_words[[taken]], count_of(nrow(falls), "time")),
    paste(said, collapse = "; "),
    if (nrow(falls) > most) sprintf("; and %d more", nrow(falls) - most) else ""
  )
}
