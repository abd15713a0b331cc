# ClickHouse, over its HTTP interface, from version 18 on: no driver is needed,
# and neither window functions nor queries with names.

clickhouse_engine <- function(at) {
  need_package("curl", "to ask ClickHouse")
  warn_of_clear_password(at)
  ask <- function(sql) ask_clickhouse(at, sql)
  quoted_by <- function(mark) {
    function(x) {
      marked <- gsub("([\\\\'`])", "\\\\\\1", enc2utf8(as.character(x)))
      if (length(x) > 0) paste0(mark, marked, mark) else character()
    }
  }
  list(
    label = "ClickHouse", ask = ask,
    tables = function() ask("SHOW TABLES")[[1]], close = function() NULL,
    name = quoted_by("`"), text = quoted_by("'"),
    div = function(a, b) sprintf("intDiv(%s, %s)", a, b),
    whole = function(a) sprintf("toInt64(%s)", a),
    real = function(a) sprintf("toFloat64(%s)", a),
    # Quicker than by CASE, which this engine takes for one of many.
    figure = function(name) {
      number <- sprintf("toFloat64(%s)", name)
      sprintf("if(isNaN(%s), NULL, %s)", number, number)
    },
    lacks = function(name) {
      sprintf("(isNull(%s) OR isNaN(toFloat64(%s)))", name, name)
    },
    floored = function(a) sprintf("toInt64(floor(toFloat64(%s)))", a),
    when = clickhouse_when,
    key_text = function(name) sprintf("toString(%s)", name),
    log = "log", look_up = look_up_in_arrays,
    put_together = in_few_levels, ordered = ordered_by_arrays
  )
}

# The password and the user come from the environment, and go in headers.
ask_clickhouse <- function(at, sql) {
  handle <- curl::new_handle(
    post = TRUE, connecttimeout = 10, noprogress = TRUE,
    copypostfields = paste(sql, "FORMAT TabSeparatedWithNamesAndTypes")
  )
  secret <- c(
    "X-ClickHouse-User" = at$user %||% Sys.getenv("CLICKHOUSE_USER"),
    "X-ClickHouse-Key" = Sys.getenv("CLICKHOUSE_PASSWORD")
  )
  curl::handle_setheaders(handle, .list = as.list(secret[nzchar(secret)]))
  got <- tryCatch(
    curl::curl_fetch_memory(clickhouse_address(at), handle),
    error = function(cnd) {
      again_if_interrupted(cnd)
      stop_unreached("ClickHouse", at, conditionMessage(cnd))
    }
  )
  said <- rawToChar(got$content[got$content != 0])
  Encoding(said) <- "UTF-8"
  if (got$status_code != 200) {
    # By its own codes, or by the server before it.
    shut <- got$status_code %in% c(401, 403) ||
      grepl("^Code: (192|193|194|516)[^0-9]", said)
    if (shut) stop_unreached(
      "ClickHouse", at, sub("\n.*", "", paste("Authentication:", said))
    )
    stop_engine("ClickHouse", said)
  }
  rows_of_text(said)
}

# Only what is whole is sent, so that an error is never taken for an end.
clickhouse_address <- function(at) {
  safe <- at$scheme == "clickhouses"
  host <- at$host %||% "localhost"
  sprintf(
    "%s://%s:%s/?wait_end_of_query=1&database=%s",
    if (safe) "https" else "http",
    if (grepl(":", host)) sprintf("[%s]", host) else host,
    at$port %||% if (safe) "8443" else "8123",
    curl::curl_escape(at$base %||% "default")
  )
}

# A password in the clear is for this machine alone.
warn_of_clear_password <- function(at) {
  near <- c("localhost", "127.0.0.1", "::1")
  if (at$scheme == "clickhouse" && nzchar(Sys.getenv("CLICKHOUSE_PASSWORD")) &&
        !is.null(at$host) && !at$host %in% near) {
    warn_backfill(
      "database", "The password goes to {at$host} as plain text;",
      "`clickhouses://` in the address sends it over TLS."
    )
  }
}

# Tab-separated text with rows of names and types above.
rows_of_text <- function(said) {
  head <- strsplit(
    regmatches(said, regexpr("^[^\n]*\n[^\n]*", said)), "\n"
  )[[1]]
  names <- strsplit(head[[1]], "\t")[[1]]
  types <- strsplit(head[[2]], "\t")[[1]]
  # To the end: substring() would leave off after a million characters.
  body <- substr(said, sum(nchar(head)) + 3, nchar(said))
  data <- if (nzchar(body)) {
    withCallingHandlers(
      data.table::fread(
        text = body, sep = "\t", header = FALSE, quote = "",
        encoding = "UTF-8", colClasses = "character", na.strings = "\\N",
        strip.white = FALSE, blank.lines.skip = FALSE, verbose = FALSE,
        showProgress = FALSE
      ),
      # Rows that are left out are told as a warning.
      warning = function(cnd) stop_engine("ClickHouse", conditionMessage(cnd))
    )
  } else {
    rep(list(character()), length(names))
  }
  columns <- Map(function(text, type) {
    if (grepl("Int|Float|Decimal", type)) {
      as.numeric(text)
    } else if (grepl("Date\\)?$", type)) {
      as.Date(text)
    } else {
      unescaped(text)
    }
  }, as.list(data), types)
  vctrs::new_data_frame(stats::setNames(columns, names))
}

unescaped <- function(text) {
  marks <- c(t = "\t", n = "\n", r = "\r", b = "\b", f = "\f", "0" = "")
  has <- which(grepl("\\", text, fixed = TRUE))
  found <- gregexpr("\\\\.", text[has])
  regmatches(text[has], found) <- lapply(
    regmatches(text[has], found), function(marked) {
      mark <- substring(marked, 2)
      ifelse(mark %in% names(marks), marks[mark], mark)
    }
  )
  text
}

clickhouse_when <- function(engine, name, from, unit) {
  type <- type_there(name, from, "toTypeName", engine$ask)
  # What a column cannot lack need not be asked for.
  there <- if (grepl("^Nullable", type)) sprintf("isNotNull(%s)", name)
  type <- sub("^Nullable\\((.*)\\)$", "\\1", type)
  if (type == "Date") {
    seconds_of <- function(a) sprintf("(toInt64(%s) * 86400)", a)
    return(new_moments(
      "date", seconds_of(name), sprintf("toFloat64(%s)", seconds_of(name)),
      there, name, seconds_of
    ))
  }
  if (grepl("^DateTime", type)) {
    seconds_of <- function(a) sprintf("toInt64(%s)", a)
    return(new_moments(
      "instant", seconds_of(name), sprintf("toFloat64(%s)", seconds_of(name)),
      there, name, seconds_of, whole = TRUE
    ))
  }
  if (grepl("Int|Float|Decimal", type)) {
    finite <- if (grepl("Float", type)) sprintf("isFinite(%s)", name)
    return(counted_moments(
      engine, name, from, all_conditions(there, finite), unit
    ))
  }
  stop_no_time(name, type, "toDate(day)")
}

look_up_in_arrays <- function(steps, keys, values) {
  key <- listed(c(names(keys), "''"))
  texts <- do.call(paste, c(unname(keys), "''", sep = ", "))
  with_columns(steps, vapply(values, function(one) {
    sprintf(
      "transform(concat(%s), [%s], [%s], toInt64(-1))", key,
      listed(sprintf("concat(%s)", texts)), listed(sprintf("toInt64(%s)", one))
    )
  }, ""))
}
