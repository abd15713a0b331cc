# Records in PostgreSQL and ClickHouse, each on one server and on two, against
# the same ones in memory. `make test-engines` starts the servers and names them
# here; elsewhere these tests are skipped.

addresses_of <- function(engine) {
  found <- Sys.getenv(paste0("BACKFILL_", engine))
  skip_if(
    !nzchar(found), sprintf("no %s here: `make test-engines`", tolower(engine))
  )
  strsplit(found, " ")[[1]]
}

# A PostgreSQL whose table is in two parts, one of them on another server.
two_postgres_base <- function(addresses, env = parent.frame()) {
  near <- postgres_base(addresses[[1]], env)
  far <- postgres_base(addresses[[2]], env)
  at <- backfill:::address_parts(addresses[[2]])
  for (sql in c(
    "CREATE EXTENSION IF NOT EXISTS postgres_fdw",
    "DROP SERVER IF EXISTS far CASCADE",
    sprintf(paste(
      "CREATE SERVER far FOREIGN DATA WRAPPER postgres_fdw OPTIONS",
      "(host '%s', port '%s', dbname '%s', use_remote_estimate 'true')"
    ), at$host, at$port, at$base),
    "CREATE USER MAPPING FOR CURRENT_USER SERVER far OPTIONS (user 'tarn')",
    "ALTER DATABASE postgres SET enable_partitionwise_aggregate = on"
  )) {
    suppressMessages(near$run(sql))
  }
  put <- near$put
  near$put <- function(data, name) {
    put(data, "whole")
    far$put(data[0, ], "half")
    suppressMessages(near$run("DROP TABLE IF EXISTS cases"))
    near$run("CREATE TABLE cases (LIKE whole) PARTITION BY HASH (\"when\")")
    half <- "PARTITION OF cases FOR VALUES WITH (MODULUS 2, REMAINDER %d)"
    near$run(sprintf(paste("CREATE TABLE one", half), 0))
    near$run(sprintf(paste(
      "CREATE FOREIGN TABLE two", half,
      "SERVER far OPTIONS (table_name 'half')"
    ), 1))
    near$run("INSERT INTO cases SELECT * FROM whole")
  }
  near
}

test_that("PostgreSQL gives the periods of memory", {
  expect_cases_alike(postgres_base(addresses_of("POSTGRES")[[1]]))
})

test_that("so does a table of which a part is on another PostgreSQL", {
  expect_cases_alike(two_postgres_base(addresses_of("POSTGRES")), 1:70)
})

test_that("ClickHouse gives the periods of memory", {
  expect_cases_alike(clickhouse_base(addresses_of("CLICKHOUSE")[[1]]))
})

test_that("so does a Distributed table over two ClickHouse servers", {
  expect_cases_alike(clickhouse_base(addresses_of("CLICKHOUSE")))
})

test_that("days as eight digits are dates, and codes no figures, in every engine", {
  expect_digits_and_codes(postgres_base(addresses_of("POSTGRES")[[1]]))
  expect_digits_and_codes(clickhouse_base(addresses_of("CLICKHOUSE")))
})

test_that("columns may have the names that queries use themselves", {
  data <- data.frame(
    t = as.Date("2031-01-05") + 0:99, v = 1:100 / 8, e = 7, own = 3, p = 2,
    k1 = c("a", "b"), s = 1, slot = 6
  )
  measures <- c(v = "flow", e = "level")
  asked <- list("month", use = list(v = c("sum", "last"), e = "highest"))
  periods <- function(x) as.data.frame(do.call(roll_up, c(list(x), asked)))
  here <- periods(as_records(data, "t", measures, series = "k1"))
  for (base in list(
    postgres_base(addresses_of("POSTGRES")[[1]]),
    clickhouse_base(addresses_of("CLICKHOUSE"))
  )) {
    base$put(data, "lots")
    there <- records_at(base$at, "lots", "t", measures, series = "k1")
    expect_alike(periods(there), here, base$at)
  }
})

test_that("profiles are those of memory in every engine", {
  here <- crossings()
  data <- as.data.frame(here)[c("time", "tide")]
  for (base in list(
    postgres_base(addresses_of("POSTGRES")[[1]]),
    clickhouse_base(addresses_of("CLICKHOUSE"))
  )) {
    base$put(data, "crossings")
    there <- records_at(
      base$at, "crossings", "time", c(tide = "flow"), zone = "WET"
    )
    for (asked in list(list("hour", "weekend"), list("week", stat = "90%"))) {
      profile <- function(x, ...) {
        as.list(as.data.frame(do.call(cycle_profile, c(list(x, ...), asked))))
      }
      expect_equal(
        profile(there), profile(here, of = "tide"), tolerance = 1e-12,
        ignore_attr = TRUE
      )
    }
    expect_equal(
      as.data.frame(cycle_grid(there, "date", "hour")),
      as.data.frame(cycle_grid(here, "date", "hour", of = "tide")),
      tolerance = 1e-12, ignore_attr = TRUE
    )
  }
})

test_that("an answer of megabytes comes back whole", {
  data <- data.frame(
    read = as.POSIXct("2031-01-01", tz = "UTC") + 1800 * seq_len(120000),
    pump = paste("pump at the quay of the eastern isles,", 1:3)
  )
  data$litres <- seq_len(nrow(data)) / 8
  here <- as_records(data, "read", c(litres = "flow"), series = "pump")
  for (base in list(
    postgres_base(addresses_of("POSTGRES")[[1]]),
    clickhouse_base(addresses_of("CLICKHOUSE"))
  )) {
    base$put(data, "quay")
    there <- records_at(
      base$at, "quay", "read", c(litres = "flow"), series = "pump"
    )
    expect_alike(
      as.data.frame(roll_up(there, "90 minutes")),
      as.data.frame(roll_up(here, "90 minutes")), base$at
    )
  }
})

test_that("a clock's times in PostgreSQL are those of memory", {
  base <- postgres_base(addresses_of("POSTGRES")[[1]])
  data <- as.data.frame(crossings())[c("time", "tide")]
  data$clock <- format(data$time, "%Y-%m-%d %H:%M:%S", tz = "WET")
  base$put(data, "crossings")
  there <- records_at(
    base$at, "SELECT CAST(clock AS timestamp) AS clock, tide FROM crossings",
    "clock", c(tide = "flow"), zone = "WET", repeated = "first",
    duplicates = "keep"
  )
  here <- as_records(
    data, "clock", c(tide = "flow"), zone = "WET", repeated = "first",
    duplicates = "keep"
  )
  for (every in c("hour", "day", "week")) {
    expect_alike(
      as.data.frame(roll_up(there, every)),
      as.data.frame(roll_up(here, every)), every
    )
  }
  expect_error(
    records_at(base$at, "crossings", "clock", c(tide = "flow")),
    "of the type text", class = "backfill_error_when"
  )
})

test_that("the right to read is enough, and the password is the environment's", {
  base <- postgres_base(addresses_of("POSTGRES")[[1]])
  base$put(data.frame(day = as.Date("2031-03-01") + 0:9, n = 1:10), "lots")
  for (sql in c(
    "REVOKE ALL ON DATABASE postgres FROM PUBLIC",
    "DROP OWNED BY reader", "DROP ROLE reader", "CREATE ROLE reader LOGIN",
    "GRANT CONNECT ON DATABASE postgres TO reader",
    "GRANT SELECT ON lots TO reader",
    "ALTER ROLE reader SET default_transaction_read_only = on"
  )) {
    try(base$run(sql), silent = TRUE)
  }
  total <- function(database) {
    sum(roll_up(records_at(
      database, "lots", "day", c(n = "flow")
    ), "week")$value)
  }
  expect_identical(total(sub("tarn@", "reader@", base$at)), 55)

  # A SELECT of somebody else's cannot write either.
  base$run("CREATE SEQUENCE IF NOT EXISTS tide")
  expect_error(
    roll_up(records_at(
      base$at, "SELECT day, nextval('tide') AS n FROM lots", "day",
      c(n = "flow")
    ), "week"), "read-only", class = "backfill_error_database"
  )

  base <- clickhouse_base(addresses_of("CLICKHOUSE")[[1]])
  base$put(data.frame(day = as.Date("2031-03-01") + 0:9, n = 1:10), "lots")
  reader <- sub("//", "//reader@", base$at)
  withr::local_envvar(CLICKHOUSE_PASSWORD = "ebb")
  expect_error(total(reader), class = "backfill_error_database")
  withr::local_envvar(CLICKHOUSE_PASSWORD = "tide")
  expect_identical(total(reader), 55)
})

test_that("a connection that is lost, or takes too long, is told as such", {
  address <- addresses_of("POSTGRES")[[1]]
  base <- postgres_base(address)
  base$put(data.frame(day = as.Date("2031-03-01") + 0:9, n = 1:10), "lots")
  own <- postgres_open(address)
  id <- DBI::dbGetQuery(own, "SELECT pg_backend_pid() AS id")$id
  there <- records_at(own, "lots", "day", c(n = "flow"))
  asked <- 0
  engine <- attr(there, "backfill")$at$engine
  attr(there, "backfill")$at$engine$ask <- function(sql) {
    asked <<- asked + 1
    if (asked == 3) base$run(sprintf("SELECT pg_terminate_backend(%d)", id))
    engine$ask(sql)
  }
  expect_error(
    roll_up(there, "week"), "terminat|lost|closed|connection",
    class = "backfill_error_database"
  )
  try(DBI::dbDisconnect(own), silent = TRUE)

  hasty <- postgres_open(address)
  withr::defer(DBI::dbDisconnect(hasty))
  DBI::dbExecute(hasty, "SET statement_timeout = 50")
  slow <- records_at(
    hasty, "SELECT lots.* FROM lots, generate_series(1, 100000000)", "day",
    c(n = "flow")
  )
  expect_error(
    roll_up(slow, "week"), "statement timeout",
    class = "backfill_error_database"
  )
})

test_that("an interrupt ends the query at the server as well", {
  address <- addresses_of("POSTGRES")[[1]]
  base <- postgres_base(address)
  base$put(data.frame(day = as.Date("2031-03-01") + 0:9, n = 1:10), "lots")
  child <- processx::process$new(
    file.path(R.home("bin"), "Rscript"), c(
      system.file("exec", "backfill", package = "backfill"), "periods",
      "--database", address, "--table",
      "SELECT lots.* FROM lots, generate_series(1, 1000000000) AS slow",
      "--when", "day", "--measure", "n:flow", "--every", "week"
    ), env = c(
      "current", R_LIBS = paste(.libPaths(), collapse = .Platform$path.sep)
    ), stderr = "|"
  )
  running <- function() {
    engine <- backfill:::open_at(address)
    engine$ask(paste(
      "SELECT count(*) AS n FROM pg_stat_activity WHERE state = 'active'",
      "AND query LIKE '%AS slow%' AND query NOT LIKE '%pg_stat_activity%'"
    ))$n
  }
  for (i in 1:60) if (running() == 0) Sys.sleep(0.5) else break
  expect_gt(running(), 0)
  child$interrupt()
  child$wait(10000)
  expect_identical(child$get_exit_status(), 130L)
  Sys.sleep(1)
  expect_equal(running(), 0)
})

# The last one: it stops a server.
test_that("with a shard down there are no figures rather than fewer", {
  base <- clickhouse_base(addresses_of("CLICKHOUSE"))
  pid <- as.integer(readLines(Sys.getenv("BACKFILL_SHARD_PID")))
  base$put(data.frame(day = as.Date("2031-03-01") + 0:9, n = 1:10), "lots")
  lots <- records_at(base$at, "lots", "day", c(n = "flow"))
  expect_identical(sum(roll_up(lots, "week")$value), 55)
  tools::pskill(pid, tools::SIGKILL)
  Sys.sleep(1)
  expect_error(roll_up(lots, "week"), class = "backfill_error_database")
})

# Whatever takes records elsewhere, by its name.
asked_of_source <- list(
  account = function(x) {
    found <- account(x)
    found[c("rows_read", "rows_used", "duplicates", "series", "cadence")]
  },
  missing = function(x) {
    as.data.frame(account(x)$missing)[
      c("measure", "count")
    ]
  },
  ends = function(x) as.numeric(c(account(x)$first, account(x)$last)),
  suspicious = function(x) as.data.frame(account(x)$suspicious),
  set_aside = function(x) nrow(rows_set_aside(x)),
  kept = function(x) {
    account(keep_dates(x, from = "2031-02-01", weekdays = 1:5))$rows_used
  },
  periods = function(x) as.data.frame(roll_up(x, "week")),
  profile = function(x) as.data.frame(cycle_profile(x, "weekday")),
  grid = function(x) as.data.frame(cycle_grid(x, "weekday", "month")),
  attributes = function(x) {
    basins <- data.frame(quay = c("a", "b"), basin = c("north", "south"))
    as.data.frame(roll_up(add_attributes(x, basins, "quay"), "month",
                          by = "basin"))
  }
)

test_that("every verb, command and study that takes a source does so on every engine", {
  day <- as.Date("2031-01-01") + 0:799
  data <- data.frame(
    day = rep(day, 2), quay = rep(c("a", "b"), each = 800),
    kilos = c(NA, 5:803, rep(0, 799), -1), price = 2 + rep(1:800 / 8, 2)
  )
  measures <- c(kilos = "flow", price = "level")
  here <- as_records(data, "day", measures, series = "quay")
  for (engine in c("POSTGRES", "CLICKHOUSE")) {
    address <- addresses_of(engine)[[1]]
    base <- if (engine == "POSTGRES") postgres_base(address) else
      clickhouse_base(address)
    base$put(data, "lots")
    there <- records_at(base$at, "lots", "day", measures, series = "quay")
    for (name in names(asked_of_source)) {
      ask <- asked_of_source[[name]]
      expect_equal(
        ask(there), ask(here), tolerance = 1e-12, ignore_attr = TRUE,
        label = paste(engine, name)
      )
    }
    expect_output(print(there), "lots")
    at <- c(
      "--database", address, "--table", "lots", "--when", "day", "--series",
      "quay", "--measure", "price:level"
    )
    for (command in c(
      "periods", "describe", "growth", "moving", "season", "lags", "flags"
    )) {
      ran <- command_line(command, at, "--every", "week", dir = tempdir())
      expect_identical(
        ran$status, 0L,
        label = paste(c(engine, command, ran$err), collapse = "\n")
      )
    }
    folder <- withr::local_tempdir()
    withr::local_envvar(R_USER_CACHE_DIR = withr::local_tempdir())
    writeLines(c(
      "backfill: 1", "records:", "  lots:", paste("    database:", address),
      "    table: lots", "    when: day", "    series: quay",
      "    measures: {kilos: flow}", "steps:", "  - roll_up: {every: week}",
      "    name: weekly", "  - add_growth: {over: 1 week}", "    name: growth",
      "  - cycle_profile: {position: weekday}", "    from: lots",
      "    name: profile", "report: {formats: md}"
    ), file.path(folder, "study.yaml"))
    study <- read_study(file.path(folder, "study.yaml"), outside = TRUE)
    run <- run_study(study, file.path(folder, "run"))
    expect_equal(
      study_result(run, "weekly")$value,
      roll_up(here, "week", use = list(kilos = "sum"))$value[
        roll_up(here, "week")$measure == "kilos"
      ]
    )
  }
})

test_that("reading changes nothing over a connection to PostgreSQL", {
  address <- addresses_of("POSTGRES")[[1]]
  at <- backfill:::address_parts(address)
  con <- DBI::dbConnect(
    RPostgres::Postgres(), host = at$host, port = at$port, user = at$user,
    dbname = at$base, bigint = "numeric"
  )
  withr::defer(DBI::dbDisconnect(con))
  suppressMessages(DBI::dbExecute(con, "DROP TABLE IF EXISTS t"))
  DBI::dbExecute(con, "CREATE SEQUENCE IF NOT EXISTS counted")
  expect_error(
    read_records(
      con,
      table = "SELECT nextval('counted') AS kilos, DATE '2031-01-01' AS day",
      when = "day", measures = c(kilos = "flow")
    ),
    class = "backfill_error"
  )
  DBI::dbWriteTable(con, "t", data.frame(
    day = as.Date("2031-01-01") + 0:9, kilos = 1:10 + 0
  ))
  DBI::dbBegin(con)
  DBI::dbExecute(con, "INSERT INTO t VALUES ('2031-02-01', 1)")
  count <- function() {
    nrow(read_records(con, table = "t", when = "day",
                      measures = c(kilos = "flow")))
  }
  expect_identical(count(), 11L)
  DBI::dbExecute(con, "INSERT INTO t VALUES ('2031-02-02', 1)")
  expect_identical(count(), 12L)
  DBI::dbRollback(con)
  expect_identical(count(), 10L)
})
