# Runs the tests against the installed package, or those of the files named, two
# files at a time. What did not pass is shown as its file ends; the last line
# counts all.
folder <- "tests/testthat"
named <- commandArgs(trailingOnly = TRUE)

# Those that take longest come first, so that none is left running alone.
long <- strsplit(
  read.dcf("DESCRIPTION", "Config/testthat/start-first"), "[, \n]+"
)[[1]]
files <- sub("^test-(.*)[.]R$", "\\1", list.files(folder, "^test-.*[.]R$"))
files <- c(intersect(long, files), setdiff(files, long))
if (length(named) > 0) files <- intersect(files, named)

# In a process of its own: the helpers are run once, for all its files.
set_up <- function(folder) {
  suppressPackageStartupMessages({
    library(testthat)
    library(backfill)
  })
  tests <- new.env(parent = asNamespace("backfill"))
  source_test_helpers(folder, tests)
  assign("tests", tests, globalenv())
}

run_file <- function(folder, file) {
  began <- proc.time()
  said <- utils::capture.output(ran <- as.data.frame(testthat::test_dir(
    folder, filter = sprintf("^%s$", file), package = "backfill",
    load_package = "none", load_helpers = FALSE,
    env = get("tests", globalenv()), reporter = "summary",
    stop_on_failure = FALSE
  )))
  counts <- c(
    passed = sum(ran$passed), failed = sum(ran$failed) + sum(ran$error),
    warned = sum(ran$warning), skipped = sum(ran$skipped)
  )
  list(counts = counts, said = said, seconds = sum((proc.time() - began)[-3]))
}

new_worker <- function() {
  session <- callr::r_session$new(
    callr::r_session_options(env = c(TESTTHAT_PARALLEL = "false"))
  )
  session$run(set_up, list(folder))
  session
}

show_file <- function(file, ran) {
  counts <- ran$counts
  cat(sprintf(
    "%-16s %6.1f s  %s\n", file, ran$seconds, in_counts(counts)
  ))
  if (counts[["failed"]] + counts[["warned"]] > 0) {
    writeLines(ran$said)
  }
}

in_counts <- function(counts) {
  shown <- counts[c(TRUE, TRUE, counts[-(1:2)] > 0)]
  paste(sprintf("%d %s", as.integer(shown), names(shown)), collapse = ", ")
}

# A process that ends before its file does has failed one test.
outcome <- function(event) {
  if (is.null(event$error)) {
    return(event$result)
  }
  list(
    counts = c(passed = 0, failed = 1, warned = 0, skipped = 0),
    said = conditionMessage(event$error), seconds = NA_real_
  )
}

# What became of the file that a process ran, or NULL while it runs.
finished <- function(worker) {
  event <- worker$read()
  if (is.null(event) && !worker$is_alive()) {
    event <- list(code = 500, error = simpleError("The process ended."))
  }
  if (!is.null(event) && event$code %in% c(200, 500:502)) outcome(event)
}

run_all <- function(files) {
  workers <- lapply(seq_len(min(2, length(files))), function(i) new_worker())
  running <- character(length(workers))
  total <- c(passed = 0, failed = 0, warned = 0, skipped = 0)
  while (length(files) > 0 || any(running != "")) {
    for (i in utils::head(which(running == ""), length(files))) {
      running[[i]] <- files[[1]]
      files <- files[-1]
      workers[[i]]$call(run_file, list(folder, running[[i]]))
    }
    processx::poll(
      lapply(workers, function(one) one$get_poll_connection()), 1000
    )
    for (i in which(running != "")) {
      ran <- finished(workers[[i]])
      if (is.null(ran)) next
      show_file(running[[i]], ran)
      total <- total + ran$counts
      running[[i]] <- ""
      if (!workers[[i]]$is_alive()) workers[[i]] <- new_worker()
    }
  }
  total
}

total <- run_all(files)
cat(sprintf("\n%s\n", in_counts(total)))
# A warning may be a column that a test asks for and that is not there. A run
# without a single test is no success.
if (total[["failed"]] + total[["warned"]] > 0 || total[["passed"]] == 0) {
  quit(save = "no", status = 1)
}
