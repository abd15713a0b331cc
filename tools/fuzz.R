# Writes bench/FUZZ.md: damaged files of every format, by class of damage.
# Usage: tools/fuzz.R ROUNDS [SEED]
suppressPackageStartupMessages(library(backfill))
for (helper in c("helper-backfill.R", "helper-mutate.R")) source(file.path(
  "tests", "testthat", helper
))
asked <- as.integer(commandArgs(trailingOnly = TRUE))
seed <- if (length(asked) > 1) asked[[2]] else 2031L
found <- fuzz_formats(
  asked[[1]], seed, tell = function(format, class) message(format, ": ", class)
)

totals <- function(by, heading) {
  sums <- aggregate(
    found[c("inputs", "refused", "accepted", "faults")], found[by], sum
  )
  sums <- sums[match(unique(found[[by]]), sums[[by]]), ]
  cells <- apply(
    cbind(sums[[by]], format(sums[-1], big.mark = ",")), 1, paste,
    collapse = " | "
  )
  c(
    sprintf("| %s | inputs | refused | accepted | faults |", heading),
    "|---|--:|--:|--:|--:|", sprintf("| %s |", cells)
  )
}
first <- found[found$faults > 0, ]
writeLines(c(
  "# Damaged files", "",
  paste(
    "Written by `make fuzz`. Sound files of every format are damaged by",
    "`tests/testthat/helper-mutate.R` and read. An input"
  ),
  paste(
    "is refused by an error of ours, or accepted with its account whole:",
    "rows read are rows used and rows set aside."
  ),
  "Anything else, an error from inside, a warning or a crash, is a fault.", "",
  sprintf(
    "%s inputs, seed %d: %s faults.", format(sum(found$inputs), big.mark = ","),
    seed, sum(found$faults)
  ), "",
  totals("class", "class of damage"), "", totals("format", "format"),
  if (nrow(first) > 0) {
    c("", sprintf("- %s, %s: %s", first$format, first$class, first$first))
  }
), "bench/FUZZ.md")
if (sum(found$faults) > 0) quit(save = "no", status = 1)
