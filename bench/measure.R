# What the benchmarks measure with.

# The least seconds of several runs in turn, of which the first warms up.
least <- function(code, runs = 3) {
  code <- substitute(code)
  frame <- parent.frame()
  min(vapply(seq_len(runs + 1), function(run) {
    gc(FALSE)
    system.time(eval(code, frame), gcFirst = FALSE)[["elapsed"]]
  }, 0)[-1])
}

# The most memory in bytes that the process takes while `code` runs, beside what
# it took before: resident memory, which R's vectors and the kernels' own memory
# both are part of.
most_memory <- function(code) {
  code <- substitute(code)
  frame <- parent.frame()
  gc()
  writeLines("5", "/proc/self/clear_refs") # starts the high-water mark anew
  before <- resident("VmRSS")
  eval(code, frame)
  resident("VmHWM") - before
}

resident <- function(field) {
  line <- grep(
    paste0("^", field, ":"), readLines("/proc/self/status"), value = TRUE
  )
  as.numeric(gsub("[^0-9]", "", line)) * 1024
}

# Puts lines under the heading of a benchmark into bench/RESULTS.md, in place of
# those of an earlier run, and prints them.
write_result <- function(name, lines) {
  writeLines(lines)
  file <- file.path("bench", "RESULTS.md")
  heading <- paste("##", name)
  text <- if (file.exists(file)) readLines(file) else character()
  start <- match(heading, text)
  if (!is.na(start)) {
    after <- which(startsWith(text, "## ") & seq_along(text) > start)
    text <- text[-(start:(c(after, length(text) + 1)[[1]] - 1))]
  }
  head <- c(
    "# Results of the benchmarks", "",
    paste(
      "Written by `make bench`. Ratios of one run compare better than",
      "seconds of several: the machine is not ours alone."
    ),
    ""
  )
  body <- text[
    seq_along(text) >= match(
      TRUE, startsWith(text, "## "), nomatch = length(text) + 1
    )
  ]
  writeLines(
    c(head, body, heading, "", machine(), "", "```text", lines, "```", ""), file
  )
}

machine <- function() {
  model <- grep("^model name", readLines("/proc/cpuinfo"), value = TRUE)
  sprintf(
    "%s, %s; %s, backfill %s, data.table %s; %s.", sub(".*: ", "", model[[1]]),
    paste(length(model), "cores"), R.version.string,
    utils::packageVersion("backfill"), utils::packageVersion("data.table"),
    Sys.Date()
  )
}
