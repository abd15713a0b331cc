# Records in memory and the same ones in a database, to be rolled up alike.

# A random table of records of one kind, from helper-oracle.R, with how it is to
# be rolled up. Series have names that need quoting.
elsewhere_case <- function(seed) {
  table <- oracle_table(seed)
  data <- table$data
  names <- c("O'Brien \"x\"", "Ægir; --", "a@b %s")
  data$series <- names[match(data$series, letters)]
  # Weekends that a file has rows for are no proof of anything.
  if (seed %% 4 == 0) {
    data$value[weekdays(as.Date(data$when), TRUE) %in% c("Sat", "Sun")] <- NA
  }
  kind <- pick(c("flow", "level", "counter", "return", "log return"))
  # Of records at one time there is no first, and no rise between them.
  alone <- kind == "counter" || seed %% 3 == 0
  if (alone) data <- data[!duplicated(data[c("when", "series")]), ]
  if (kind == "counter") {
    order <- order(data$series, data$when)
    data$value[order] <- cumsum(ifelse(
      is.na(data$value[order]), 0, abs(data$value[order])
    ))
    data$value[sample(nrow(data), 2)] <- c(NA, 0)
  }
  if (grepl("return", kind)) data$value <- data$value / 1e5
  dates <- inherits(data$when, "Date")
  holidays <- min(as.Date(data$when)) + sample(40, 3)
  every <- pick(c(
    list(
      table$every, "month", "quarter",
      calendar("year", year_start = sample(12, 1)), calendar("10 days"),
      calendar("2 weeks", week_start = sample(7, 1)), "third",
      calendar(
        pick(c("month", "quarter")), week_start = sample(7, 1),
        year_start = sample(12, 1), whole_weeks = pick(c("4-4-5", "by month")),
        first_week = pick(c("before", "nearest", "after"))
      )
    ),
    if (table$way != "months") {
      list(
        calendar("working day", holidays = holidays),
        calendar("month", workdays = 1:5, holidays = holidays)
      )
    },
    if (!dates) {
      list(
        "hour", "4 hours", "day", calendar("day", zone = pick(oracle_zones)),
        calendar("month", zone = pick(oracle_zones))
      )
    }
  ))
  uses <- list(
    flow = list(NULL, c("sum", "highest", "sd"), "90%", "count", "slots"),
    level = list(NULL, c("lowest", "highest", "sd"), "median", "25%"),
    counter = list(NULL, "count", "highest"), return = list(NULL, "mean"),
    "log return" = list(NULL, "sd")
  )[[kind]]
  if (alone) uses$level <- c(uses$level, list(c("first", "last")))
  list(
    data = data, zone = table$zone, kind = kind, every = every,
    use = pick(uses), by = if (kind != "counter") pick(list(NULL, character())),
    absent = switch(
      kind, flow = pick(list(NULL, "zero")),
      counter = pick(list(NULL, "spread"))
    ),
    falls = if (kind == "counter") {
      pick(list(NULL, "count", "restart", c("count", "restart")))
    },
    rollover = if (kind == "counter") {
      pick(list(NULL, 1.2 * max(data$value, na.rm = TRUE)))
    },
    duplicates = if (alone) "error" else "keep",
    keep = pick(c(
      list(list(), list(weekdays = 2:6), list(
        from = format(stats::quantile(as.Date(data$when), 0.2, type = 1)),
        workdays = TRUE, holidays = holidays
      ), list(
        from = format(min(as.Date(data$when)) - 9),
        to = format(max(as.Date(data$when)) + 40)
      )),
      if (!dates) list(list(hours = 5:17, weekdays = 2:7))
    ))
  )
}

# What a roll-up gives, or the class of the error that it ends with.
rolled <- function(x, case) {
  tryCatch(
    suppressWarnings({
      x <- do.call(keep_dates, c(list(x), case$keep))
      use <- unlist(case$use)
      if (length(use) > 1) use <- list(value = use)
      out <- roll_up(
        x, case$every, by = case$by, use = use, absent = case$absent,
        falls = case$falls, rollover = case$rollover
      )
      as.data.frame(out)
    }),
    backfill_error = function(cnd) conditionMessage(cnd)
  )
}

# Counts, standings and coverage alike, values to the last digits.
expect_alike <- function(there, here, label) {
  if (!is.data.frame(here) || !is.data.frame(there)) {
    return(expect_identical(there, here, label = label))
  }
  exact <- setdiff(names(here), "value")
  expect_equal(
    as.list(there[exact]), as.list(here[exact]), tolerance = 1e-15,
    ignore_attr = TRUE, label = label
  )
  expect_identical(is.na(there$value), is.na(here$value), label = label)
  size <- pmax(abs(here$value), 1e-3 * max(abs(here$value), 0, na.rm = TRUE))
  off <- max(0, abs(there$value - here$value) / size, na.rm = TRUE)
  expect_lt(off, 1e-12, label = label)
}

expect_cases_alike <- function(base, seeds = seq_len(100)) {
  for (seed in seeds) {
    case <- elsewhere_case(seed)
    expect_alike(
      rolled(case_there(case, base), case), rolled(case_here(case), case),
      paste("case", seed)
    )
  }
}

case_here <- function(case) {
  as_records(
    case$data, when = "when", series = "series", zone = case$zone,
    measures = stats::setNames(case$kind, "value"),
    duplicates = case$duplicates
  )
}

# The same in a database, list(at, put, unit): where, a function that puts a
# data frame there as a table, and what its times count, if they are numbers.
case_there <- function(case, base) {
  base$put(case$data, "cases")
  dates <- inherits(case$data$when, "Date")
  records_at(
    base$at, "cases", when = "when", series = "series", zone = case$zone,
    measures = stats::setNames(case$kind, "value"),
    date_unit = if (!dates) base$unit, duplicates = case$duplicates
  )
}

# Days as eight digits, two of which never were, and codes for missing values.
expect_digits_and_codes <- function(base) {
  day <- seq(as.Date("2027-12-01"), as.Date("2032-03-31"), 1)
  data <- data.frame(
    day = as.integer(format(day, "%Y%m%d")), depth = 20 + seq_along(day) %% 7
  )
  data$depth[seq(3, nrow(data), 50)] <- -999.5
  data <- rbind(data, data.frame(day = c(20310229L, 20311301L), depth = 1))
  base$put(data, "digits")
  there <- function(...) {
    records_at(base$at, "digits", "day", c(depth = "level"), ...)
  }
  here <- function(...) as_records(data, "day", c(depth = "level"), ...)
  told <- account(there())
  expect_identical(nrow(told$set_aside), 2L)
  looks <- function(account) grep("Look at", account$notes, value = TRUE)
  look <- looks(told)
  expect_identical(look, looks(account(here())))
  expect_match(look, "-999.5", fixed = TRUE)
  without <- there(missing = -999.5)
  told <- account(without)
  expect_no_match(told$notes, "Look at")
  expect_equal(sum(told$missing$count), sum(data$depth == -999.5))
  expect_alike(
    as.data.frame(roll_up(without, "month")),
    as.data.frame(roll_up(here(missing = -999.5), "month")), "digits"
  )
}

sqlite_base <- function(env = parent.frame()) {
  at <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(at), envir = env)
  list(at = at, unit = "second", put = function(data, name) {
    data[] <- lapply(data, function(column) {
      if (inherits(column, "Date")) format(column) else
        if (inherits(column, "POSIXct")) as.numeric(column) else column
    })
    DBI::dbWriteTable(at, name, data, overwrite = TRUE)
  })
}

# In memory. Times become those with a zone.
duckdb_base <- function(env = parent.frame()) {
  at <- DBI::dbConnect(suppressMessages(duckdb::duckdb()))
  withr::defer(DBI::dbDisconnect(at, shutdown = TRUE), envir = env)
  list(at = at, put = function(data, name) {
    timed <- names(data)[vapply(data, inherits, NA, "POSIXct")]
    data[timed] <- lapply(data[timed], as.numeric)
    DBI::dbWriteTable(at, "given", data, overwrite = TRUE)
    instants <- sprintf("to_timestamp(\"%s\") AS \"%s\"", timed, timed)
    DBI::dbExecute(at, paste(
      "CREATE OR REPLACE TABLE", name, "AS SELECT *", if (length(timed) > 0) {
        sprintf("REPLACE (%s)", paste(instants, collapse = ", "))
      }, "FROM given"
    ))
  })
}

postgres_base <- function(address, env = parent.frame()) {
  writing <- postgres_open(address)
  withr::defer(DBI::dbDisconnect(writing), envir = env)
  list(at = address, put = function(data, name) {
    DBI::dbWriteTable(writing, name, data, overwrite = TRUE)
  }, run = function(sql) DBI::dbExecute(writing, sql))
}

postgres_open <- function(address) {
  at <- backfill:::address_parts(address)
  DBI::dbConnect(
    RPostgres::Postgres(), host = at$host, port = at$port, user = at$user,
    dbname = at$base
  )
}

# A ClickHouse of one server, or of several behind a Distributed table.
clickhouse_base <- function(addresses) {
  servers <- sub("^clickhouse", "http", sub("/[^/]*$", "/", addresses))
  say <- function(server, sql) {
    got <- curl::curl_fetch_memory(
      server, curl::new_handle(post = TRUE, copypostfields = sql)
    )
    if (got$status_code != 200) stop(rawToChar(got$content))
  }
  list(at = addresses[[1]], say = say, servers = servers,
       put = function(data, name) {
         apart <- length(servers) > 1
         parts <- if (apart) paste0(name, "_part") else name
         share <- rep_len(seq_along(servers), nrow(data))
         for (i in seq_along(servers)) {
           say(servers[[i]], sprintf("DROP TABLE IF EXISTS %s", parts))
           say(servers[[i]], clickhouse_table(data, parts))
           say(servers[[i]], paste0(
             sprintf("INSERT INTO %s FORMAT TabSeparated\n", parts),
             clickhouse_rows(data[share == i, ])
           ))
         }
         if (apart) {
           say(servers[[1]], sprintf("DROP TABLE IF EXISTS %s", name))
           say(servers[[1]], sprintf(
             "CREATE TABLE %s AS %s ENGINE = Distributed(isles, default, %s)",
             name, parts, parts
           ))
         }
       })
}

clickhouse_table <- function(data, name) {
  types <- vapply(data, function(column) {
    if (inherits(column, "Date")) "Date" else
      if (inherits(column, "POSIXct")) "DateTime('UTC')" else
        if (is.numeric(column)) "Nullable(Float64)" else "Nullable(String)"
  }, "")
  sprintf(
    "CREATE TABLE %s (%s) ENGINE = MergeTree PARTITION BY tuple() %s", name,
    paste(sprintf("`%s` %s", names(data), types), collapse = ", "),
    "ORDER BY tuple()"
  )
}

clickhouse_rows <- function(data) {
  columns <- lapply(data, function(column) {
    text <- if (inherits(column, "POSIXct")) sprintf("%.0f", column) else
      if (is.numeric(column)) sprintf("%.17g", column) else
        gsub("\\", "\\\\", as.character(column), fixed = TRUE)
    ifelse(is.na(column), "\\N", text)
  })
  paste0(paste(do.call(paste, c(unname(columns), sep = "\t")),
               collapse = "\n"), "\n")
}
