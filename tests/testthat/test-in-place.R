# Tables in the hands of R's own tools, which may change a column where it lies.

plain_months <- function() roll_up(read_plain(plain_records()), "month")

# Each change of a copy in place, and the same by plain means.
changes_in_place <- list(
  setorder = function(x) {
    data.table::setorderv(x, "period", -1L)
  },
  setorder_two = function(x) {
    data.table::setorderv(x, c("measure", "period"), c(-1L, 1L))
  },
  set_value = function(x) {
    data.table::set(x, 3L, "value", 7.5)
  },
  set_period = function(x) {
    row <- which(x$site == "Brod" & x$measure == "first_m")[[40]]
    data.table::set(x, row, "period", as.Date("2040-01-01"))
  },
  set_site = function(x) data.table::set(x, 5L, "site", "Other"),
  set_measure = function(x) {
    data.table::set(x, 5L, "measure", "second_m")
  },
  set_standing = function(x) {
    data.table::set(x, 9L, "standing", factor("partial", levels(x$standing)))
  },
  setcolorder = function(x) data.table::setcolorder(x, rev(names(x))),
  assign = function(x) {
    x[["value"]] <- rev(x[["value"]])
    x
  }
)

test_that("what a table knows of its rows cannot be changed through it", {
  skip_if_not_installed("data.table")
  verbs <- list(
    function(x) add_growth(x, "1 year"), function(x) add_moving(x, 3),
    function(x) add_lagged(x, 1), function(x) series_summary(x),
    function(x) roll_up(x, "quarter"), function(x) seasonal_index(x),
    function(x) autocorrelation(x), function(x) {
      widen(
        x[x$measure == "first_m", ]
      )
    }
  )
  for (name in names(changes_in_place)) {
    change <- changes_in_place[[name]]
    # As data.table changes it, and as a table that nothing is known of.
    x <- plain_months()
    x[] <- lapply(x, function(column) column[seq_along(column)])
    x <- backfill:::check_periods(add_growth(x))[names(x)]
    x <- change(x)
    fresh <- x
    attr(fresh, "backfill")$layout <- NULL
    fresh[] <- lapply(fresh, function(column) column[seq_along(column)])
    for (verb in verbs) {
      outcome <- function(x) {
        suppressWarnings(
          tryCatch(as.data.frame(verb(x)), backfill_error = conditionMessage)
        )
      }
      expect_equal(outcome(x), outcome(fresh), label = name)
    }
  }
})

test_that("a value that is taken out makes what is made of it partial", {
  x <- plain_months()
  gone <- which(x$site == "Kell" & format(x$period) == "2029-05-01")
  for (none in c(NA, NaN, Inf, -Inf)) {
    x$value[gone] <- none
    quarters <- roll_up(x, "quarter")
    at <- quarters$site == "Kell" & format(quarters$period) == "2029-04-01"
    expect_identical(as.character(quarters$standing[at]), rep("partial", 2))
    expect_equal(quarters$coverage[at], rep(2 / 3, 2))
    kept <- x[x$site == "Kell" & x$measure == "first_m" &
                format(x$period) %in% c("2029-04-01", "2029-06-01"), ]
    expect_equal(quarters$value[at][[1]], sum(kept$value))
    expect_false(any(at & !is.na(add_growth(quarters)$growth_1_quarter)))
  }
})

test_that("there is a way back from a plain table", {
  x <- add_growth(plain_months())
  plain <- as.data.frame(x)
  ways <- list(
    data.frame = plain, merge = merge(plain, data.frame(
      site = unique(plain$site), mill = "M"
    )),
    transform = transform(x, value = value), grouped = dplyr::group_by(x, site)
  )
  if (rlang::is_installed("data.table")) {
    ways$data.table <- data.table::as.data.table(x)
  }
  for (name in names(ways)) {
    back <- as_periods(ways[[name]], like = x)
    expect_s3_class(back, "backfill_periods")
    expect_identical(
      roll_up(back, "quarter")$value, roll_up(x, "quarter")$value, label = name
    )
    expect_identical(
      names(attr(back, "backfill")$added), "growth_1_month", label = name
    )
  }
  expect_error(
    as_periods(plain[-1], x), "\"site\"", class = "backfill_error_column"
  )
  expect_error(
    as_periods(rbind(plain, plain[1, ]), x), "of another",
    class = "backfill_error_input"
  )
  plain$period <- plain$period + 1
  expect_error(
    as_periods(plain, x), "start a month", class = "backfill_error_input"
  )
})

test_that("R's own tools that look for doubles or bind columns lose nothing", {
  x <- plain_months()
  expect_message(same <- unique(x), NA)
  expect_identical(same, x)
  expect_message(wider <- dplyr::bind_cols(x, note = "n"), NA)
  expect_s3_class(wider, "backfill_periods")
  expect_message(one <- dplyr::distinct(x), NA)
  expect_s3_class(one, "backfill_periods")
})

test_that("numbers that name series are text, wherever they come from", {
  day <- rep(as.Date("2031-01-01") + 0:58, 3)
  id <- rep(c(100000, 9, 12345678901), each = 59)
  data <- data.frame(day, id, v = 1)
  read <- as_records(data, "day", c(v = "flow"), series = "id")
  expect_setequal(read$id, c("100000", "9", "12345678901"))
  grown <- add_growth(roll_up(read, "month"))
  said <- paste(capture.output(print(grown)), collapse = " ")
  expect_false(grepl("1e+05|100,000", said))
  expect_identical(
    trace_value(grown, "2031-01", "100000", "value")$figure, 31
  )
  wide <- as_records(
    transform(data, site = "a"), "day", c(v = "flow"), series = "site",
    duplicates = "keep"
  )
  by_id <- roll_up(wide, "month", by = "id")
  expect_setequal(by_id$id, read$id)
  connection <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(connection))
  DBI::dbWriteTable(connection, "t", transform(data, day = format(day)))
  there <- records_at(connection, "t", "day", c(v = "flow"), series = "id")
  expect_alike(
    as.data.frame(roll_up(there, "month")),
    as.data.frame(roll_up(read, "month")), "ids there"
  )
  # And lengths of time keep their unit.
  wait <- as_records(
    data.frame(day = day[1:59], wait = as.difftime(1:59, units = "mins")),
    "day", c(wait = "level")
  )
  expect_identical(attr(wait, "backfill")$measures$wait$unit, "mins")
  hours <- as_records(
    data.frame(day = day[1:59], wait = as.difftime(60 * 1:59, units = "mins")),
    "day", list(wait = measure("level", "hours"))
  )
  expect_identical(hours$wait, as.numeric(1:59))
  # A clock that is not the one declared is told.
  tokyo <- data.frame(t = as.POSIXct("2031-01-01", "Etc/GMT-9") + 1:9, v = 1)
  notes <- function(zone) {
    account(as_records(tokyo, "t", c(v = "flow"), zone = zone))$notes
  }
  expect_match(notes("UTC"), "held by the clock of Etc/GMT-9")
  expect_identical(notes("Etc/GMT-9"), character())
})
