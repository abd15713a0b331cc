# What is asked of a database reads, and changes nothing.

written <- list(
  "DELETE FROM t", "WITH x AS (DELETE FROM t RETURNING *) SELECT * FROM x",
  "WITH x AS (SELECT 1) DELETE FROM t RETURNING *",
  "with x as (select 1) insert into t select * from t returning *",
  "SELECT * FROM t; DROP TABLE t", "SELECT * FROM t;;DELETE FROM t",
  "SELECT 1 --\n; DELETE FROM t", "SELECT * INTO other FROM t",
  "SELECT 'a\\'; DELETE FROM t --'", "SELECT /*! 1; DELETE FROM t */ 1",
  "SELECT $a$ x $a$; DELETE FROM t", "/* c */ DELETE FROM t",
  "SELECT * FROM (UPDATE t SET kilos = 0 RETURNING *) AS u",
  "PRAGMA writable_schema = 1", "ATTACH 'x' AS y", "VACUUM"
)
reading <- list(
  "SELECT * FROM t",
  " -- which\n/* and; why */ SELECT day, kilos FROM t ;  -- x",
  "WITH x AS (SELECT * FROM t) SELECT * FROM x",
  "SELECT day, kilos, 'a; DELETE FROM t' AS \"; drop\" FROM t",
  "SELECT replace(day, 'x', 'y') AS day, kilos FROM t",
  "WITH deleted AS (SELECT * FROM t) SELECT * FROM deleted"
)

for_each_way <- function(con, sql) {
  list(
    rows = tryCatch(
      read_records(
        con, table = sql, when = "day", measures = c(kilos = "flow")
      ),
      error = identity
    ),
    at = tryCatch(
      roll_up(records_at(con, sql, "day", c(kilos = "flow")), "day"),
      error = identity
    )
  )
}

expect_reading_only <- function(con) {
  data <- data.frame(day = sprintf("2031-04-%02d", 1:9), kilos = 1:9 + 0.5)
  DBI::dbWriteTable(con, "t", data)
  same <- function() DBI::dbGetQuery(con, "SELECT * FROM t ORDER BY day")
  for (sql in written) {
    for (got in suppressWarnings(for_each_way(con, sql))) {
      expect_s3_class(got, "backfill_error")
    }
    expect_identical(same(), data, label = sql)
  }
  for (sql in reading) {
    got <- for_each_way(con, sql)
    expect_identical(got$rows$kilos, data$kilos, label = sql)
    expect_identical(got$at$value, data$kilos, label = sql)
  }
}

test_that("a SELECT over one's own connection changes nothing", {
  skip_if_not_installed("RSQLite")
  con <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(con))
  expect_no_warning(expect_reading_only(con))
  # The connection is as it was: it may write, and keeps its transaction.
  DBI::dbExecute(con, "INSERT INTO t VALUES ('2031-05-01', 1)")
  DBI::dbBegin(con)
  DBI::dbExecute(con, "INSERT INTO t VALUES ('2031-05-02', 2)")
  expect_length(for_each_way(con, "t")$rows$kilos, 11)
  DBI::dbRollback(con)
  expect_length(for_each_way(con, "t")$rows$kilos, 10)
})

test_that("passwords are never shown", {
  secret <- "hunter2"
  for (address in c(
    "host=db port=5432 user=me password=hunter2 dbname=x",
    "host=db;Pwd=hunter2;", "postgresql://me:hunter2@db/x",
    "postgresql://db/x?password=hunter2", "postgres://me:hun/ter2hunter2@db/x",
    "PASSWORD = 'hunter2'", "sslpassword=hunter2 host=db",
    "clickhouse://me:hunter2@db:8123/x", "host=db passwd=hunter2",
    "api_key=hunter2", "mysql://me:a@hunter2@db/x"
  )) {
    said <- tryCatch(
      records_at(address, "t", "day", c(kilos = "flow")),
      error = conditionMessage
    )
    expect_no_match(said, secret, fixed = TRUE)
    said <- tryCatch(
      read_records(address, "day", c(kilos = "flow")), error = conditionMessage
    )
    expect_no_match(said, secret, fixed = TRUE)
    ran <- command_line(
      "periods", "--database", address, "--table", "t", "--when", "day",
      "--measure", "kilos:flow", "--every", "day", dir = tempdir()
    )
    expect_identical(ran$status, 2L)
    expect_no_match(c(ran$out, ran$err), secret, fixed = TRUE)
  }
  expect_identical(
    backfill:::without_secrets("https://u:hunter2@h/f.csv?token=hunter2&a=1"),
    "https://h/f.csv?token=***&a=1"
  )
  expect_identical(
    backfill:::without_secrets("a@b.csv, postgresql://USER@HOST:5432/BASE"),
    "a@b.csv, postgresql://USER@HOST:5432/BASE"
  )
})
