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

# The most memory in bytes that the process takes while `code` runs, beside what it took before: resident memory, which
# R's vectors and the kernels' own memory both are part of.
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
  line <- grep(paste0("^", field, ":"), readLines("/proc/self/status"), value = TRUE)
  as.numeric(gsub("[^0-9]", "", line)) * 1024
}
