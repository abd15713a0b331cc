# Readers of formats that a damaged file may bring down run in a session of
# their own, with limits, whose death is an error of ours. The session is kept
# for the next file, as starting one takes half a second.

# What `read(path, ...)` gives; it must find all it needs in the packages that
# it names, and in `...`.
read_apart <- function(read, file, what, ...) {
  need_package("callr", sprintf("to read %s", what))
  stop_file <- function(reason) {
    abort_backfill(
      "file", "{basename(file$shown)} cannot be read as {what}.",
      i = "{reason}"
    )
  }
  seconds <- getOption("backfill.reader_seconds", 1800)
  room <- 50 * 1024^2 * ceiling(file.size(file$path) / 1024^2)
  session <- session_apart(getOption(
    "backfill.reader_bytes", 4 * 1024^3 + room
  ))
  # Also where the user interrupts: what it is still at belongs to nobody.
  on.exit(if (!session_rests(session)) session$kill())
  session$call(read, list(normalizePath(file$path), ...))
  if (session$poll_process(1000 * seconds) == "timeout") {
    stop_file(sprintf("It takes more than %s seconds.", thousands(seconds)))
  }
  answer <- session$read()
  if (is.null(answer$error)) {
    return(answer$result)
  }
  reason <- if (session_rests(session)) {
    conditionMessage(answer$error$parent %||% answer$error)
  }
  # Where in the source of its reader, and what else was thought of it, helps
  # nobody here.
  reason <- sub("( (@|at )[a-z_]+[.]c(pp)?:|\n).*", "", reason)
  stop_file(if (length(reason) > 0 && nzchar(reason)) {
    reason
  } else {
    "It is damaged, and brings its reader down."
  })
}

kept_session <- new.env(parent = emptyenv())

# A session that waits for work and may take `room` bytes: the one kept, else a
# new one, whose temporary files lie among those of this session and go with
# them.
session_apart <- function(room) {
  kept <- kept_session$session
  if (!is.null(kept) && kept_session$owner == Sys.getpid()) {
    if (session_rests(kept) && kept_session$room == room) {
      return(kept)
    }
    kept$kill()
  }
  limits <- c(R_MAX_VSIZE = sprintf("%.0f", room), TMPDIR = tempdir())
  options <- callr::r_session_options(
    env = c(callr::rcmd_safe_env(), limits), user_profile = FALSE
  )
  kept_session$session <- callr::r_session$new(options)
  kept_session$owner <- Sys.getpid()
  kept_session$room <- room
  kept_session$session
}

session_rests <- function(session) {
  session$is_alive() &&
    session$get_state() == "idle"
}
