# Near misses: a command or an option that there is not, and what was meant.

# What words of the trade are here, as shell lines.
lines_meant <- c(
  forecast = "season FILE --project \"1 year\"",
  predict = "season FILE --project \"1 year\"",
  project = "season FILE --project \"1 year\"",
  deseasonalise = "season FILE --adjust", adjust = "season FILE --adjust",
  seasonality = "season FILE", decompose = "season FILE --worksheet",
  trend = "season FILE --trend", profile = "season FILE --profile weekday",
  anomaly = "flags FILE", anomalies = "flags FILE", outlier = "flags FILE",
  outliers = "describe FILE --outliers", alert = "flags FILE --fail-on-flag",
  correlate = "links FILE", correlation = "links FILE",
  autocorrelation = "lags FILE", cycle = "lags FILE --cycles",
  resample = "periods FILE", aggregate = "periods FILE",
  plot = "periods FILE --figure FILE.png",
  chart = "periods FILE --figure FILE.png",
  smooth = "moving FILE", average = "moving FILE", rolling = "moving FILE",
  summary = "describe FILE", summarise = "describe FILE",
  compare = "describe FILE --differ --groups COLUMN",
  shifts = "describe FILE --shifts", latest = "describe FILE --latest",
  returns = "growth FILE --returns simple", rank = "growth FILE --rank 10",
  check = "inspect FILE", read = "inspect FILE", draft = "study draft FILE",
  run = "study run STUDY", diff = "study diff FOLDER FOLDER"
)

# Options by other names.
options_meant <- c(
  plot = "figure", chart = "figure", output = "out", outfile = "out",
  date = "when", time = "when", value = "measure", values = "measure",
  group = "series", frequency = "every", freq = "every", interval = "every",
  period = "every", timezone = "zone", tz = "zone", sheets = "sheet",
  start = "from", since = "from", end = "to", until = "to",
  threshold = "beyond", silent = "quiet", lag = "lagged", lead = "lagged"
)

stop_no_command <- function(word) {
  known <- commands()
  near <- nearest_options(word, names(known), 1)
  meant <- unname(lines_meant[tolower(word)])
  stop_usage(
    "There is no command \"{word}\".",
    i = if (!is.na(meant)) {
      "`backfill {meant}` does that."
    } else if (length(near) > 0) {
      "Did you mean `backfill {near}`?"
    } else {
      "The commands are {in_words(names(known))}."
    },
    ">" = "{main_hint()}"
  )
}

stop_no_option <- function(word, options, hint) {
  near <- nearest_options(word, names(options))
  meant <- option_meant(word, options) %||% option_elsewhere(word) %||%
    if (length(near) > 0) {
      glue("Did you mean {in_words(paste0('--', near), last = ' or ')}?")
    }
  stop_usage(
    "There is no option --{word}.", i = if (!is.null(meant)) "{meant}",
    ">" = "{hint}"
  )
}

# The option of this command that is called so elsewhere, or whose verb is.
option_meant <- function(word, options) {
  verb <- gsub("-", "_", word, fixed = TRUE)
  asks <- Filter(function(option) identical(option$of[1], verb), options)
  meant <- c(names(asks)[seq_len(min(1, length(asks)))], options_meant[word])
  meant <- meant[meant %in% names(options)]
  if (length(meant) > 0) {
    sprintf("Here it is --%s.", meant[[1]])
  }
}

# The command that has such an option, or does what it is called.
option_elsewhere <- function(word) {
  having <- Filter(
    function(command) word %in% names(command$options), commands()
  )
  if (length(having) > 0) {
    return(sprintf(
      "It is an option of %s.",
      in_words(sprintf("`backfill %s`", names(having)), 3, last = " and ")
    ))
  }
  meant <- unname(lines_meant[tolower(word)])
  if (!is.na(meant)) sprintf("`backfill %s` does that.", meant)
}

# A flag that is followed by something that can be no input.
check_flag_values <- function(args, options, hint) {
  flags <- paste0("--", names(Filter(
    function(option) is.null(option$value), options
  )))
  at <- which(args[-length(args)] %in% flags & grepl("^[0-9.]+$", args[-1]))
  at <- at[!file.exists(args[at + 1])]
  if (length(at) > 0) {
    stop_usage(
      "{args[at[[1]]]} takes no value; given is {args[at[[1]] + 1]}.",
      ">" = "{hint}"
    )
  }
}

# Up to three options that a word may be a slip of.
nearest_options <- function(word, options, most = 3) {
  far <- utils::adist(word, options)[1, ]
  close <- far <= max(1, nchar(word) %/% 3) |
    startsWith(options, word) & nchar(word) > 2
  utils::head(options[close][order(far[close])], most)
}
