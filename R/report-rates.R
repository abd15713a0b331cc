#' How often a verdict is wrong
#'
#' What was simulated of every verb that judges: how often it says that there is
#' something where there is nothing, and how often it finds what is there.
#'
#' The rates come with the package, which makes them itself (`make rates`): each
#' is the share of some hundred series of one world and one length that get the
#' verdict. Worlds are kinds of series that users have, such as noise, noise
#' that remembers, random walks, slopes, seasons, long tails and holes, all of
#' months. Their sizes are given in standard deviations of the noise (sd).
#'
#' @param verb The name of a verb, such as `"trend_line"`. By default all.
#' @return A tibble with a row for each verdict, world and length: `verb`,
#'   `verdict`, `world`, `n` (periods of a series), `kind` (`"wrong"` where the
#'   verdict would be, `"right"` where it would not), `stated` (the share of
#'   wrong verdicts that the verb goes by), `rate` (the share of those judged
#'   that get the verdict), `given` (the share that is judged), `cases` (series,
#'   pairs or periods) and `date`.
#' @section Errors: `backfill_error_argument` for a verb that has no rates.
#' @examples
#' verdict_rates("trend_line")
#' @concept false alarms
#' @concept power
#' @export
verdict_rates <- function(verb = NULL) {
  all <- utils::read.csv(system.file("rates.csv", package = "backfill"))
  name <- sub("[(].*", "", all$verb)
  if (!is.null(verb)) {
    check_one_of(verb, unique(name), "verb")
    all <- all[name == verb, ]
  }
  new_result(new_rows(!!!all), "verdict_rates", list(verb = verb))
}

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
      "@section How often it is wrong: Simulated months without what is said,",
      "and with it; [verdict_rates()] has these rates."
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
    # Too few were judged.
    rate <- ifelse(
      rows$given[at] < 0.05, "-", format(round(100 * rows$rate[at]))
    )
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
