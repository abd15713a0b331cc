# The command line: finds the command, runs it, and turns conditions into
# messages and an exit status.

# The commands by their names, each list(name, inputs, run, about, options,
# examples, wants): `wants` are the shell lines for what one may want of it.
# Every function called command_... declares the one of that name, in the file
# of the command; new ones come last.
commands <- function() {
  named <- sub("^command_", "", ls(topenv(), pattern = "^command_"))
  named <- union(intersect(order_of_work, named), named)
  lapply(stats::setNames(nm = named), one_command)
}

# One of them; NULL where there is none of that name.
one_command <- function(name) {
  declare <- get0(paste0("command_", name), topenv(), inherits = FALSE)
  command <- if (is.function(declare)) declare()
  # Several verbs of a command may have an argument in common, which is one
  # option then.
  command$options <- command$options[!duplicated(names(command$options))]
  command
}

order_of_work <- c(
  "inspect", "report", "periods", "growth", "moving", "season", "describe",
  "flags", "lags", "links", "trace", "study", "demo"
)

# What each command gives where no option asks for something else.
plain_verbs <- c(
  inspect = "inspect_file", periods = "roll_up", growth = "add_growth",
  moving = "add_moving", season = "seasonal_index", describe = "series_summary",
  flags = "flag_periods", lags = "autocorrelation", links = "correlations",
  trace = "trace_value"
)

# The shell line that does what a verb does: its command, with the flag that
# asks for it; NULL where there is none.
line_of_verb <- function(verb) {
  shared <- c(
    narrowing_verbs, list(join_records = "with", impute_gaps = fill_map)
  )
  if (verb %in% names(shared)) {
    return(paste0("--", asked_by(shared[[verb]])))
  }
  if (verb %in% plain_verbs) {
    return(paste("backfill", names(plain_verbs)[plain_verbs == verb]))
  }
  for (command in commands()) {
    asks <- Filter(
      function(one) identical(one$of, c(verb, "")), command$options
    )
    if (length(asks) > 0) {
      return(sprintf("backfill %s --%s", command$name, names(asks)[[1]]))
    }
  }
}

# 0 done, 1 an internal fault, 2 bad usage or bad input, 3 flagged periods where
# that was asked for. `args` is what follows `backfill` in the shell.
run_command_line <- function(args) {
  rlang::local_options(!!!plain_options, warn = 0)
  # Put back to nothing it would fail a data.table that is loaded meanwhile.
  if (isTRUE(getOption("datatable.verbose"))) {
    rlang::local_options(datatable.verbose = FALSE)
  }
  # No zone of the machine's is ever used, and where none is set R asks programs
  # that may complain.
  if (!nzchar(Sys.getenv("TZ"))) Sys.setenv(TZ = "UTC")
  # In a locale without an encoding of its own, such as that of a scheduled job,
  # names are those of the files still.
  args <- vapply(args, function(arg) {
    if (validUTF8(arg)) {
      `Encoding<-`(arg, "UTF-8")
    } else {
      arg
    }
  }, "", USE.NAMES = FALSE)
  tryCatch(
    {
      withCallingHandlers(dispatch(args), backfill_warning = function(cnd) {
        said <- sprintf("Warning: %s", conditionMessage(cnd))
        say(wrapped(spelled(said)), "")
        rlang::cnd_muffle(cnd)
      })
      0L
    },
    backfill_flagged = function(cnd) 3L,
    backfill_error = function(cnd) {
      say(sprintf("backfill: %s", rlang::cnd_message(cnd)))
      2L
    },
    interrupt = function(cnd) {
      say(if (asked_to_end_cpp()) {
        "backfill: ended."
      } else {
        "backfill: interrupted."
      })
      if (asked_to_end_cpp()) 143L else 130L
    },
    error = function(cnd) {
      # Whoever reads the output has seen enough of it.
      if (grepl("SIGPIPE", conditionMessage(cnd), fixed = TRUE)) {
        return(141L)
      }
      say(sprintf("backfill: an internal fault: %s", conditionMessage(cnd)),
          paste(
            "This is a mistake in Backfill, not in your file. Nothing was",
            "half-written."
          ))
      1L
    }
  )
}

dispatch <- function(args) {
  if (length(args) == 0) {
    stop_usage("No command is given.", ">" = "{main_hint()}")
  }
  if (args[[1]] %in% c("--help", "-h")) {
    return(writeLines(main_help()))
  }
  if (args[[1]] == "help") {
    return(writeLines(help_on(args[-1])))
  }
  if (args[[1]] == "--version") {
    return(writeLines(paste("backfill", utils::packageVersion("backfill"))))
  }
  command <- one_command(args[[1]])
  if (is.null(command)) {
    stop_no_command(args[[1]])
  }
  run_command(command, args[-1])
}

main_hint <- function() "See `backfill --help`."

# Messages go to standard error, so that standard output holds data and nothing
# else.
say <- function(...) {
  cat(paste0(visible(c(...)), "\n"), sep = "", file = stderr())
}

# Says on a terminal what is being done for as long as it takes; elsewhere says
# nothing.
doing <- function(text, code) {
  if (isatty(stderr())) {
    cli::cli_progress_message("{text} ...")
  }
  code
}

stop_usage <- function(..., .envir = parent.frame()) {
  abort_backfill("usage", ..., .envir = .envir)
}
