# Measures of one table that come at unlike steps: each is as complete as its
# own records make it.

# Two series of daily sales, with a target on the first of each month and a
# count on the Friday of each week.
unlike <- function() {
  day <- seq(as.Date("2030-01-01"), as.Date("2031-12-31"), "day")
  one <- data.frame(day, sales = 1 + seq_along(day) %% 7)
  one$target <- ifelse(format(day, "%d") == "01", 100, NA)
  one$count <- ifelse(format(day, "%u") == "5", 5, NA)
  two <- transform(one, sales = sales * 2, target = NA)
  rbind(cbind(shop = "Hearth", one), cbind(shop = "Mole", two))
}

unlike_records <- function(data = unlike(), ...) {
  as_records(
    data, "day", c(sales = "flow", target = "flow", count = "level"), "shop",
    ...
  )
}

standing_of <- function(x) table(x$measure, as.character(x$standing))

test_that("each measure is complete by its own step", {
  quarters <- roll_up(unlike_records(), "quarter")
  count <- standing_of(quarters)
  expect_identical(count["sales", "complete"], 16L)
  # One series has no target at all.
  expect_identical(count["target", c("complete", "empty")], c(
    complete = 8L, empty = 8L
  ))
  expect_identical(count["count", "complete"], 16L)
  target <- quarters[quarters$shop == "Hearth" & quarters$measure == "target", ]
  expect_equal(target$value, rep(300, 8))
  expect_equal(target$coverage, rep(1, 8))
  expect_match(
    paste(describe(quarters), collapse = " "),
    "month for Hearth / target and week for Hearth / count and Mole / count"
  )
})

test_that("a month in which a step lacks is partial, of that measure alone", {
  data <- unlike()
  data$target[data$day == as.Date("2030-05-01")] <- NA
  data$sales[data$day %in% (as.Date("2030-08-01") + 0:9)] <- NA
  x <- roll_up(unlike_records(data), "quarter")
  x <- x[x$shop == "Hearth", ]
  partial <- x[x$standing == "partial", ]
  expect_identical(partial$measure, c("sales", "target"))
  expect_identical(format(partial$period), c("2030-07-01", "2030-04-01"))
  expect_equal(partial$coverage, c(82 / 92, 2 / 3))
})

test_that("what one series lacks changes nothing in another", {
  data <- unlike()
  data$count[data$shop == "Mole"] <- 1
  alone <- data[data$shop == "Hearth", ]
  # Many that have it each day beside one that has it each week.
  others <- do.call(rbind, lapply(1:15, function(i) {
    transform(data[data$shop == "Mole", ], shop = paste("Mole", i))
  }))
  columns <- c("measure", "period", "value", "standing", "coverage")
  plain <- function(data) {
    x <- as.data.frame(roll_up(unlike_records(data), "month"))
    x <- x[x$shop == "Hearth", columns]
    rownames(x) <- NULL
    x
  }
  expect_identical(plain(rbind(alone, others)), plain(alone))
  expect_true(all(
    plain(alone)$standing[plain(alone)$measure == "count"][2:23] == "complete"
  ))
  file <- withr::local_tempfile(fileext = ".csv")
  write.csv(rbind(alone, others), file, row.names = FALSE, na = "")
  chunked <- as.data.frame(roll_up(read_records(
    file, "day", c(sales = "flow", target = "flow", count = "level"), "shop",
    chunked = TRUE
  ), "month"))
  chunked <- chunked[chunked$shop == "Hearth", columns]
  expect_equal(chunked, plain(alone), ignore_attr = TRUE)
})

test_that("gaps by chance are no step of their own", {
  withr::local_seed(11)
  data <- unlike()
  data$target <- ifelse(runif(nrow(data)) < 0.3, 1, NA)
  data$count <- ifelse(runif(nrow(data)) < 0.6, 1, NA)
  x <- roll_up(unlike_records(data), "quarter")
  expect_true(all(x$standing[x$measure != "sales"] == "partial"))
  expect_null(backfill:::facts(x)$cadences$names$measure)
})

test_that("shorter periods rolled up, chunks, databases and tables put below each other agree", {
  records <- unlike_records()
  direct <- roll_up(records, "year")
  plain <- function(x) {
    x <- as.data.frame(x)
    x[order(x$shop, x$measure, x$period), ]
  }
  same <- function(other) {
    expect_equal(plain(other), plain(direct), ignore_attr = TRUE)
    expect_equal(
      standing_of(roll_up(roll_up(other, "year"), "2 years")),
      standing_of(roll_up(records, "2 years"))
    )
  }
  same(roll_up(roll_up(records, "month"), "year"))

  file <- withr::local_tempfile(fileext = ".csv")
  write.csv(unlike(), file, row.names = FALSE, na = "")
  roles <- list(
    when = "day", series = "shop",
    measures = c(sales = "flow", target = "flow", count = "level")
  )
  same(roll_up(do.call(
    read_records, c(list(file, chunked = TRUE), roles)
  ), "year"))

  skip_if_not_installed("RSQLite")
  base <- withr::local_tempfile(fileext = ".sqlite")
  connection <- DBI::dbConnect(RSQLite::SQLite(), base)
  DBI::dbWriteTable(connection, "shops", transform(
    unlike(), day = format(day)
  ))
  DBI::dbDisconnect(connection)
  same(roll_up(do.call(
    records_at, c(list(paste0("sqlite:", base), "shops"), roles)
  ), "year"))

  months <- roll_up(records, "month")
  parts <- rbind(
    months[months$measure == "sales", ], months[months$measure != "sales", ]
  )
  same(roll_up(parts, "year"))
  kept <- withr::local_tempfile(fileext = ".csv")
  write_periods(months, kept)
  same(roll_up(read_periods(kept), "year"))
})

test_that("a renamed measure, another statistic and put together series keep the step", {
  records <- unlike_records()
  renamed <- rename_measures(roll_up(records, "month"), aim = "target")
  aims <- roll_up(renamed, "year")
  expect_identical(
    standing_of(aims)["aim", "complete"], 2L
  )
  used <- roll_up(records, "month", use = list(target = c("sum", "highest")))
  years <- roll_up(used, "year")
  expect_identical(standing_of(years)["target_highest", "complete"], 2L)
  one <- unlike_records(unlike()[unlike()$shop == "Hearth", ])
  both <- roll_up(one, "month", by = character())
  expect_true(all(both$standing[both$measure == "target"] == "complete"))
  # Of days between two targets none is expected, and growth is over targets.
  daily <- roll_up(one, "day")
  target <- daily[daily$measure == "target", ]
  expect_identical(sum(target$standing == "complete"), 24L)
  expect_true(all(is.na(target$coverage[target$standing == "empty"])))
})
