# The rates of a verb as a section of its help: worlds by lengths, in percent.
rates_section <- function(verb) {
  rates <- plain_tibble(verdict_rates(verb))
  said <- unlist(lapply(split(rates, factor(
    paste(rates$verb, rates$verdict), unique(paste(rates$verb, rates$verdict))
  )), function(one) {
    c(
      sprintf(
        "\"%s\", in percent of %.0f a cell, stated as wrong in %g%%:",
        one$verdict[[1]], stats::median(one$cases), 100 * one$stated[[1]]
      ), "", rates_table(one), ""
    )
  }))
  c(
    paste(
      "@section How often it is wrong: Simulated series of months, or of days",
      "or hours where their names say so, without the effect and with it;",
      "[verdict_rates()] has these rates."
    ),
    "", said
  )
}

rates_table <- function(one) {
  lengths <- sort(unique(one$n))
  worlds <- unique(one[c("kind", "world")])
  cells <- vapply(seq_len(nrow(worlds)), function(i) {
    rows <- one[one$world == worlds$world[i], ]
    at <- match(lengths, rows$n)
    # Not every world is tried at every length; of some too few are judged.
    rate <- ifelse(is.na(at), "", ifelse(
      rows$given[at] < 0.05, "-", format(round(100 * rows$rate[at]))
    ))
    paste(c(sprintf(
      "%s%s", worlds$world[i],
      if (worlds$kind[i] == "right") " (there is one)" else ""
    ), trimws(rate)), collapse = " \\tab ")
  }, "")
  c(
    sprintf("\\tabular{l%s}{", strrep("r", length(lengths))),
    paste0(paste(c("periods", lengths), collapse = " \\tab "), " \\cr"),
    paste0(cells, " \\cr"), "}"
  )
}
