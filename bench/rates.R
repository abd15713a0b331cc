# How often each verdict is wrong where nothing is there, and how often it finds
# what is: simulated by our own worlds, into inst/rates.csv. RATES=quick takes
# few series and writes nothing; a pattern makes only the rates whose verb,
# verdict, world and length match it.

library(backfill)
for (part in c("worlds", "judges", "verdict", "verdicts")) {
  sys.source(sprintf("bench/rates/%s.R", part), globalenv())
}
sentences_of <- function(x) {
  paste(getFromNamespace("describe", "backfill")(x), collapse = " ")
}

quick <- identical(Sys.getenv("RATES"), "quick")
only <- commandArgs(trailingOnly = TRUE)

# A row for each verdict, world and length: noise at more lengths, and worlds of
# days at theirs.
cells <- do.call(rbind, lapply(seq_along(verdicts), function(i) {
  one <- verdicts[[i]]
  said_in <- c(one$false, one$found)
  lengths_of <- function(world) {
    if (grepl("^days", world)) {
      one$days
    } else if (world == "noise") {
      union(one$n, one$noise)
    } else {
      one$n
    }
  }
  said_in <- c(said_in, intersect(paste0("days, ", said_in), names(worlds)))
  n <- lapply(said_in, lengths_of)
  world <- rep(said_in, lengths(n))
  data.frame(
    at = rep(i, length(world)), verb = rep(one$verb, length(world)),
    verdict = rep(one$said, length(world)), world, n = as.numeric(unlist(n)),
    wrong = sub("^days, ", "", world) %in% one$false
  )
}))
keys <- function(x) do.call(paste, x[c("verb", "verdict", "world", "n")])
known <- keys(cells)
if (length(only) > 0) cells <- cells[grepl(only[1], known), ]

rate_of <- function(i) {
  cell <- cells[i, ]
  one <- verdicts[[cell$at]]
  # A seed of its own: no cell moves another.
  set.seed(sum(utf8ToInt(paste(one$verb, one$said, cell$world))) + cell$n)
  lines <- if (quick) one$few else one$lines
  # Where no series carries a verdict, none is given.
  said <- tryCatch(
    one$judge(table_of(cell$world, cell$n, lines)),
    backfill_error = function(refused) rep(NA, lines)
  )
  data.frame(
    cell[c("verb", "verdict", "world", "n")],
    kind = if (cell$wrong) "wrong" else "right", stated = one$stated,
    rate = round(mean(said, na.rm = TRUE), 4),
    given = round(mean(!is.na(said)), 4), cases = length(said)
  )
}

shown <- function(i) {
  out <- tryCatch(rate_of(i), error = function(condition) {
    stop(sprintf(
      "%s: %s", keys(cells[i, ]), conditionMessage(condition)
    ), call. = FALSE)
  })
  message(sprintf(
    "%-24s %-40s %-36s %4d  %5.1f%% of %d, given %.0f%%", out$verb, out$verdict,
    out$world, out$n, 100 * out$rate, out$cases, 100 * out$given
  ))
  out
}

# What a first call makes and keeps, such as the registry of verbs, is there in
# every process then.
invisible(table_of("noise", 24, 2))
made <- parallel::mclapply(
  seq_len(nrow(cells)), shown, mc.cores = parallel::detectCores(),
  mc.preschedule = FALSE
)
failed <- vapply(made, inherits, NA, "try-error")
if (any(failed)) stop(paste(unlist(made[failed]), collapse = "\n"))
rates <- cbind(do.call(rbind, made), date = as.character(Sys.Date()))
if (!quick) {
  file <- "inst/rates.csv"
  # Others stay.
  before <- if (file.exists(file) && length(only) > 0) utils::read.csv(file)
  others <- before[keys(before) %in% setdiff(known, keys(rates)), ]
  all <- rbind(others, rates)
  all <- all[order(match(keys(all), known)), ]
  utils::write.csv(all, file, row.names = FALSE)
}
above <- rates[
  rates$kind == "wrong" & rates$rate > 2 * rates$stated &
    rates$given > 0.02, , drop = FALSE
]
cat(sprintf(
  "%d rates, %d of wrong verdicts above twice the stated one\n", nrow(rates),
  nrow(above)
))
print(above[c("verb", "verdict", "world", "n", "rate", "given")],
      row.names = FALSE)
