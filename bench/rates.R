# How often each verdict is wrong where nothing is there, and how often it finds
# what is: simulated by our own worlds, into inst/rates.csv. RATES=quick takes
# a tenth of the series and writes nothing; a pattern makes those of the verbs
# and verdicts that match alone.

library(backfill)
for (part in c("worlds", "verdicts")) {
  sys.source(sprintf("bench/rates/%s.R", part), globalenv())
}
sentences_of <- function(x) {
  paste(getFromNamespace("describe", "backfill")(x), collapse = " ")
}

quick <- identical(Sys.getenv("RATES"), "quick")
only <- commandArgs(trailingOnly = TRUE)

# A row for each verdict, world and length.
cells <- do.call(rbind, lapply(seq_along(verdicts), function(i) {
  one <- verdicts[[i]]
  worlds <- c(one$false, one$found)
  out <- expand.grid(n = one$n, world = worlds, stringsAsFactors = FALSE)
  data.frame(
    verdict = i, out[2:1], wrong = out$world %in% one$false,
    stringsAsFactors = FALSE
  )
}))
if (length(only) > 0) {
  verbs <- vapply(verdicts, function(one) paste(one$verb, one$said), "")
  cells <- cells[cells$verdict %in% grep(only[1], verbs), ]
}

rate_of <- function(i) {
  cell <- cells[i, ]
  one <- verdicts[[cell$verdict]]
  # A seed of its own: no cell moves another.
  set.seed(sum(utf8ToInt(paste(one$verb, one$said, cell$world))) + cell$n)
  lines <- max(20, ceiling(one$lines / if (quick) 10 else 1))
  if (one$verb == "rank_links()") lines <- one$lines
  said <- one$judge(table_of(cell$world, cell$n, lines))
  data.frame(
    verb = one$verb, verdict = one$said, world = cell$world, n = cell$n,
    kind = if (cell$wrong) "wrong" else "right", stated = one$stated,
    rate = round(mean(said, na.rm = TRUE), 4),
    given = round(mean(!is.na(said)), 4), cases = length(said)
  )
}

shown <- function(i) {
  out <- tryCatch(rate_of(i), error = function(condition) {
    stop(sprintf(
      "%s %s, %s, %d: %s", verdicts[[cells$verdict[i]]]$verb,
      verdicts[[cells$verdict[i]]]$said, cells$world[i], cells$n[i],
      conditionMessage(condition)
    ), call. = FALSE)
  })
  message(sprintf(
    "%-24s %-40s %-36s %4d  %5.1f%% of %d, given %.0f%%", out$verb, out$verdict,
    out$world, out$n, 100 * out$rate, out$cases, 100 * out$given
  ))
  out
}

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
  same <- function(x) paste(x$verb, x$verdict)
  all <- rbind(before[!same(before) %in% same(rates), ], rates)
  known <- vapply(verdicts, function(one) paste(one$verb, one$said), "")
  all <- all[order(match(same(all), known)), ]
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
