# Records that the engines generate themselves, counted there: beside the
# engine's own GROUP BY of the same states, beside reading the rows and rolling
# them up here, over two servers, and from 1 to 50 million. `make bench-engines`
# starts the engines.
suppressPackageStartupMessages(library(backfill))
source("bench/measure.R")

most <- as.numeric(Sys.getenv("BACKFILL_BENCH_ROWS", "50e6"))
sizes <- most * c(0.02, 0.1, 0.5, 1)
postgres <- strsplit(Sys.getenv("BACKFILL_POSTGRES"), " ")[[1]]
clickhouse <- strsplit(Sys.getenv("BACKFILL_CLICKHOUSE"), " ")[[1]]
servers <- sub("^clickhouse", "http", sub("/[^/]*$", "/", clickhouse))

say <- function(server, sql) {
  handle <- curl::new_handle(post = TRUE, copypostfields = sql)
  got <- curl::curl_fetch_memory(server, handle)
  if (got$status_code != 200) stop(rawToChar(got$content))
}

# Nineteen pumps, read at random seconds of three years.
at_second <- "1924992000 + (%s * 7919 %% 94608000)"
fill_clickhouse <- function(server, name, from, rows) {
  say(server, sprintf("DROP TABLE IF EXISTS %s", name))
  say(server, sprintf(paste(
    "CREATE TABLE %s (pump String, read DateTime('UTC'), litres Float64)",
    "ENGINE = MergeTree PARTITION BY tuple() ORDER BY (pump, read)"
  ), name))
  say(server, sprintf(paste(
    "INSERT INTO %s SELECT concat('pump ', toString(n %% 19)),",
    "toDateTime(%s), toFloat64(n * 31 %% 997) / 10 FROM",
    "(SELECT number + %.0f AS n FROM numbers(%.0f))"
  ), name, sprintf(at_second, "n"), from, rows))
  # Merges that go on behind would be counted as ours.
  say(server, sprintf("OPTIMIZE TABLE %s FINAL", name))
}
fill_postgres <- function(rows) {
  run <- function(sql) suppressMessages(DBI::dbExecute(connection, sql))
  run("DROP TABLE IF EXISTS pumps")
  run(sprintf(paste(
    "CREATE TABLE pumps AS SELECT 'pump ' || n %% 19 AS pump,",
    "to_timestamp(%s) AS read, CAST(n * 31 %% 997 AS float8) / 10 AS litres",
    "FROM generate_series(0, CAST(%.0f AS bigint)) AS n"
  ), sprintf(at_second, "n"), rows - 1))
  # So that the server does not do so meanwhile.
  invisible(run("VACUUM ANALYZE pumps"))
}

once <- function(code) system.time(code)[["elapsed"]]

# What comes after another has its pages at hand, hence the lesser of two.
twice <- function(ask) min(once(ask()), once(ask()))

# A handle that counts what comes back.
counted <- function(address, table) {
  x <- records_at(
    address, table, "read", c(litres = "flow"), series = "pump",
    duplicates = "keep"
  )
  engine <- attr(x, "backfill")$at$engine
  wire <- new.env()
  wire$rows <- wire$bytes <- wire$asked <- 0
  attr(x, "backfill")$at$engine$ask <- function(sql) {
    out <- engine$ask(sql)
    wire$asked <- wire$asked + 1
    wire$rows <- wire$rows + nrow(out)
    wire$bytes <- wire$bytes + sum(nchar(unlist(lapply(out, format))))
    out
  }
  list(x = x, wire = wire, ask = engine$ask)
}

# Seconds of the roll-up with its cadence found and with it named, of the bare
# GROUP BY, and what came back.
measured <- function(address, table, bare) {
  there <- counted(address, table)
  found <- twice(function() roll_up(there$x, "day"))
  named <- twice(function() roll_up(there$x, "day", cadence = "irregular"))
  there$wire$rows <- there$wire$bytes <- there$wire$asked <- 0
  periods <- roll_up(there$x, "day", cadence = "irregular")
  c(
    found = found, named = named, bare = twice(function() there$ask(bare)),
    rows = there$wire$rows, bytes = there$wire$bytes,
    asked = there$wire$asked, periods = nrow(periods)
  )
}

bare_clickhouse <- function(table) {
  sprintf(paste(
    "SELECT pump, intDiv(toInt64(read), 86400) AS d, count() AS n,",
    "count(litres) AS m, sum(litres) AS total FROM %s GROUP BY pump, d"
  ), table)
}
bare_postgres <- paste(
  "SELECT pump, floor(date_part('epoch', read) / 86400) AS d, count(*) AS n,",
  "count(litres) AS m, sum(litres) AS total FROM pumps GROUP BY pump, d"
)

memory_used <- function() {
  status <- readLines("/proc/self/status")
  as.numeric(gsub("[^0-9]", "", grep("^VmHWM", status, value = TRUE))) / 1024
}

line <- function(what, rows, found) {
  sprintf(
    "%-34s %5.1fM %8.2f %8.2f %8.2f %8.1f %8.1f", what, rows / 1e6,
    found[["found"]], found[["named"]], found[["bare"]],
    found[["found"]] / found[["bare"]], found[["named"]] / found[["bare"]]
  )
}

out <- c(
  sprintf("%-34s %6s %8s %8s %8s %8s %8s", "", "rows", "found", "named",
          "bare", "f/bare", "n/bare")
)
before <- memory_used()
found <- list()
for (rows in sizes) {
  fill_clickhouse(servers[[1]], "pumps", 0, rows)
  one <- measured(clickhouse[[1]], "pumps", bare_clickhouse("pumps"))
  found[[length(found) + 1]] <- one
  out <- c(out, line("ClickHouse, one server", rows, one))
}
for (i in 1:2) fill_clickhouse(servers[[i]], "part", (i - 1) * most / 2,
                               most / 2)
say(servers[[1]], "DROP TABLE IF EXISTS both")
say(servers[[1]], paste(
  "CREATE TABLE both AS part ENGINE = Distributed(isles, default, part)"
))
two <- measured(clickhouse[[1]], "both", bare_clickhouse("both"))
out <- c(out, line("ClickHouse, two servers", most, two))
at <- backfill:::address_parts(postgres[[1]], NULL)
connection <- DBI::dbConnect(
  RPostgres::Postgres(), host = at$host, port = at$port, user = at$user,
  dbname = at$base, bigint = "numeric"
)
fill_postgres(most)
pg <- measured(postgres[[1]], "pumps", bare_postgres)
out <- c(out, line("PostgreSQL", most, pg))
after <- memory_used()

# A tenth of the rows read and rolled up here, as all of them would not fit.
tenth <- most / 10
fill_postgres(tenth)
pulled <- once(roll_up(read_records(
  connection, "read", c(litres = "flow"), series = "pump", table = "pumps",
  duplicates = "keep"
), "day", cadence = "irregular"))
there <- least(roll_up(counted(postgres[[1]], "pumps")$x, "day",
                       cadence = "irregular"), 2)
# The same of ClickHouse, whose rows come as text.
fill_clickhouse(servers[[1]], "pumps", 0, tenth)
rows_here <- function() {
  handle <- curl::new_handle(
    post = TRUE, copypostfields = "SELECT * FROM pumps FORMAT CSVWithNames"
  )
  file <- tempfile(fileext = ".csv")
  curl::curl_fetch_disk(servers[[1]], file, handle)
  out <- roll_up(read_records(
    file, "read", c(litres = "flow"), series = "pump", duplicates = "keep"
  ), "day", cadence = "irregular")
  unlink(file)
  out
}
pulled_ch <- once(rows_here())
there_ch <- least(roll_up(
  counted(clickhouse[[1]], "pumps")$x, "day", cadence = "irregular"
), 2)
write_result("elsewhere", c(
  paste("Seconds to roll up to days: cadence found, cadence named, and the",
        "engine's bare GROUP BY"), "", out, "",
  sprintf("Back came %s rows, %s bytes, in %d answers, for %s periods.",
          format(two[["rows"]], big.mark = ","),
          format(two[["bytes"]], big.mark = ","), two[["asked"]],
          format(two[["periods"]], big.mark = ",")),
  sprintf("R grew by %.0f MB.", after - before),
  "", sprintf("%.1f million rows read and rolled up here, beside there",
              tenth / 1e6), "",
  sprintf("PostgreSQL  %8.2f %8.2f  %5.1f times", pulled, there,
          pulled / there),
  sprintf("ClickHouse  %8.2f %8.2f  %5.1f times", pulled_ch, there_ch,
          pulled_ch / there_ch)
))
