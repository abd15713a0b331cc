# Readers of formats that a damaged file may bring down run in a session of their own, with limits, whose death is an
# error of ours.

# What `read(path, ...)` gives; it must find all it needs in the packages that it names. Results come by a file.
read_apart <- function(read, file, what, ..., call) {
  need_package("callr", sprintf("to read %s", what), call)
  stop_file <- function(reason) {
    abort_backfill("file", sprintf("%s cannot be read as %s.", basename(file$shown), what), i = reason, call = call)
  }
  room <- getOption("backfill.reader_bytes", 4 * 1024^3 + 50 * file.size(file$path))
  seconds <- getOption("backfill.reader_seconds", 1800)
  tryCatch(
    callr::r(read, list(file$path, ...), timeout = seconds,
             env = c(callr::rcmd_safe_env(), R_MAX_VSIZE = sprintf("%.0f", room))),
    callr_timeout_error = function(cnd) stop_file(sprintf("It takes more than %s seconds.", thousands(seconds))),
    callr_error = function(cnd) {
      reason <- if (!is.null(cnd$parent)) sub("\n.*", "", conditionMessage(cnd$parent))
      stop_file(reason %||% "It is damaged, and brings its reader down.")
    }
  )
}
