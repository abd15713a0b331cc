# ClickHouse, over its HTTP interface, from version 18 on: no driver is needed,
# and neither window functions nor queries with names.

clickhouse_engine <- function(at) {
  need_package("curl", "to ask ClickHouse", NULL)
  ask <- function(sql) ask_clickhouse(at, sql)
  quoted_by <- function(mark) {
    function(x) {
      escaped <- gsub("([\\\\'`])", "\\\\\\1", enc2utf8(as.character(x)))
      if (length(x) > 0) paste0(mark, escaped, mark) else character()
    }
  }
  list(
    label = "ClickHouse", ask = ask, close = function() NULL,
    name = quoted_by("`"), text = quoted_by("'"),
    div = function(a, b) sprintf("intDiv(%s, %s)", a, b),
    whole = function(a) sprintf("toInt64(%s)", a),
    real = function(a) sprintf("toFloat64(%s)", a),
    figure = function(name) {
      number <- sprintf("toFloat64(%s)", name)
      sprintf("CASE WHEN isNaN(%s) THEN NULL ELSE %s END", number, number)
    },
    odd = function(name) "0 = 1",
    when = function(name, from, unit, call) {
      clickhouse_when(name, from, unit, ask, call)
    },
    key_text = function(name) sprintf("toString(%s)", name),
    log = "log", inline = inline_by_arrays,
    join = function(other, by) {
      sprintf(
        "SELECT * FROM @ AS q ANY INNER JOIN %s USING (%s)", other, listed(by)
      )
    },
    put_together = one_within_the_other, ordered = ordered_by_arrays
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
  # Only what is whole is sent, so that an error is never taken for an end.
  address <- sprintf(
    "http://%s:%s/?wait_end_of_query=1&database=%s", at$host,
    at$port %||% "8123", curl::curl_escape(at$base %||% "default")
  )
  got <- tryCatch(
    curl::curl_fetch_memory(address, handle),
    error = function(cnd) stop_engine("ClickHouse", conditionMessage(cnd))
  )
  said <- rawToChar(got$content)
  Encoding(said) <- "UTF-8"
  if (got$status_code != 200) {
    stop_engine("ClickHouse", said)
  }
  rows_of_text(said)
}

# Tab-separated text with rows of names and types above.
rows_of_text <- function(said) {
  head <- strsplit(
    regmatches(said, regexpr("^[^\n]*\n[^\n]*", said)), "\n"
  )[[1]]
  names <- strsplit(head[[1]], "\t")[[1]]
  types <- strsplit(head[[2]], "\t")[[1]]
  body <- substring(said, sum(nchar(head)) + 3)
  data <- if (nzchar(body)) {
    data.table::fread(
      text = body, sep = "\t", header = FALSE, quote = "", encoding = "UTF-8",
      colClasses = "character", na.strings = "\\N", strip.white = FALSE,
      blank.lines.skip = FALSE, verbose = FALSE, showProgress = FALSE
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
  odd <- which(grepl("\\", text, fixed = TRUE))
  marks <- c("\\\\" = "\001", "\\t" = "\t", "\\n" = "\n", "\\r" = "\r",
             "\\b" = "\b", "\\f" = "\f", "\\'" = "'", "\001" = "\\")
  for (mark in names(marks)) {
    text[odd] <- gsub(mark, marks[[mark]], text[odd], fixed = TRUE)
  }
  text
}

clickhouse_when <- function(name, from, unit, ask, call) {
  type <- ask(sprintf(
    "SELECT toTypeName(%s) AS type FROM %s AS q LIMIT 1", name, from
  ))$type
  if (length(type) == 0) {
    abort_backfill("input", "The table has no rows.", call = call)
  }
  there <- sprintf("isNotNull(%s)", name)
  type <- sub("^Nullable\\((.*)\\)$", "\\1", type)
  if (type == "Date") {
    second <- sprintf("(toInt64(%s) * 86400)", name)
    return(new_moments("date", second, sprintf("toFloat64(%s)", second), there))
  }
  if (grepl("^DateTime", type)) {
    second <- sprintf("toInt64(%s)", name)
    return(
      new_moments("instant", second, sprintf("toFloat64(%s)", second), there)
    )
  }
  if (grepl("Int|Float|Decimal", type)) {
    return(counted_moments(
      name, unit, there,
      floored = function(a) sprintf("toInt64(floor(toFloat64(%s)))", a),
      real = function(a) sprintf("toFloat64(%s)", a), call = call
    ))
  }
  abort_backfill(
    "when",
    sprintf("The column %s is of the type %s, not of a time.", name, type),
    ">" = "Give a SELECT that casts it, such as toDate(day).", call = call
  )
}

inline_by_arrays <- function(table) {
  arrays <- vapply(table, function(column) sprintf("[%s]", listed(column)), "")
  own <- sprintf("a%d", seq_along(table))
  sprintf(
    "(SELECT %s FROM (SELECT %s) ARRAY JOIN %s)", listed(names(table)),
    listed(sprintf("%s AS %s", arrays, own)),
    listed(sprintf("%s AS %s", own, names(table)))
  )
}

one_within_the_other <- function(steps) {
  Reduce(function(inner, step) {
    sub("@", paste0("(", inner, ")"), step, fixed = TRUE)
  }, as.list(steps))
}

# By arrays of the values of each group.
ordered_by_arrays <- list(
  further = function(engine, steps, by) {
    pairs <- grouped(steps, by, c(
      n = "count()", var_u = "varSampStable(u)",
      a = "arraySort(groupArray(tuple(e, assumeNotNull(u))))"
    ))
    at_end <- function(end, place) {
      sprintf(
        paste(
          "tupleElement(arrayElement(arrayFilter(x -> tupleElement(x, 1) =",
          "tupleElement(arrayElement(a, %s), 1), a), %s), 2)"
        ), end, place
      )
    }
    time <- function(end) sprintf("tupleElement(arrayElement(a, %s), 1)", end)
    columns <- c(
      n = "n", squares = "var_u * (n - 1)",
      first_low = at_end("1", "1"), first_high = at_end("1", "-1"),
      last_low = at_end("-1", "1"), last_high = at_end("-1", "-1"),
      first_at = time("1"), last_at = time("-1")
    )
    ask_steps(engine, add_step(pairs, sprintf(
      "SELECT %s FROM @ AS q", listed(c(by, sprintf(
        "%s AS %s", vapply(columns, engine$real, ""), names(columns)
      )))
    )))
  },
  around = function(engine, steps, by, share) {
    values <- grouped(steps, by, c(a = "arraySort(groupArray(u))"))
    below <- sprintf(
      "toUInt32(floor((length(a) - 1) * toFloat64(%s)))", digits(share)
    )
    places <- with_columns(values, c(places = sprintf(
      "arrayFilter(x -> x >= 1 AND x <= length(a), [%s, %s + 1, %s + 2])",
      below, below, below
    )))
    ask_steps(engine, add_step(places, sprintf(
      paste(
        "SELECT %s, toFloat64(i) AS place, toFloat64(length(a)) AS n,",
        "toFloat64(arrayElement(a, i)) AS figure FROM @ AS q",
        "ARRAY JOIN places AS i"
      ), listed(by)
    )))
  }
)
