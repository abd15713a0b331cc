# Periods rolled up further: the same as from the records.

day <- seq(as.Date("2030-01-01"), as.Date("2031-12-31"), by = 1)

test_that("a ratio is made of the sums of its parts, whatever statistic the table has of one of them", {
  set.seed(11)
  data <- tibble::tibble(
    day = day, paid = stats::rexp(length(day), 0.01),
    kilos = stats::rexp(length(day), 0.1)
  )
  records <- as_records(
    data, "day",
    list(paid = measure("flow"), kilos = measure("flow"),
         price = measure("ratio", of = "paid", per = "kilos"))
  )
  yearly <- roll_up(records, "year")
  price <- function(x) x$value[x$measure == "price"]
  for (
    use in list(c(paid = "highest"), c(kilos = "lowest"), c(paid = "mean"))
  ) {
    expect_equal(
      price(roll_up(roll_up(records, "month", use = use), "year")),
      price(yearly)
    )
  }
  expect_error(
    roll_up(
      roll_up(records, "month", use = c(paid = "highest", kilos = "lowest")),
      "year"
    ),
    "no sums", class = "backfill_error_input"
  )
})

test_that("a mean that was filled in weighs as much as the slots that it stands for", {
  when <- seq(
    as.POSIXct("2031-04-01", tz = "UTC"), by = 3600, length.out = 24 * 30
  )
  value <- rep(1:30, each = 24)
  gone <- 24 * 9 + 1:24
  hourly <- records_of(when[-gone], warmth = value[-gone], kind = "level")
  filled <- impute_gaps(roll_up(hourly, "day"), "linear")
  monthly <- roll_up(filled, "month")
  expect_equal(monthly$value, mean(1:30))
  expect_identical(as.character(monthly$standing), "imputed")
  # Where records come irregularly, as much as periods mostly do.
  irregular <- impute_gaps(
    roll_up(hourly, "day", cadence = "irregular"), "linear"
  )
  expect_equal(roll_up(irregular, "month")$value, mean(1:30))
})

test_that("ends that were scaled are scaled once", {
  there <- day[day >= as.Date("2030-01-11") & day <= as.Date("2031-12-10")]
  records <- records_of(there, kilos = rep(1, length(there)))
  scaled <- roll_up(records, "month", partial = "scale")
  expect_equal(scaled$value[c(1, 24)], c(31, 31))
  for (every in c("quarter", "year")) {
    direct <- roll_up(records, every, partial = "scale")
    chained <- roll_up(scaled, every, partial = "scale")
    expect_equal(chained$value, direct$value)
    expect_equal(roll_up(scaled, every)$value, roll_up(records, every)$value)
  }
  expect_equal(roll_up(scaled, "quarter", partial = "scale")$value[1], 90)
})

test_that("sums of thin periods are scaled by what is missing, once", {
  gone <- c(5, 12, 40, 100)
  records <- records_of(day[-gone], kilos = rep(2, length(day) - 4))
  recorded <- roll_up(records, "month")
  scaled <- roll_up(records, "month", thin = "scale")
  thin <- c(1, 2, 4)
  expect_identical(which(scaled$standing == "imputed"), as.integer(thin))
  days <- as.integer(table(format(day, "%Y-%m")))
  expect_equal(scaled$value, 2 * days)
  expect_identical(scaled$coverage, recorded$coverage)
  for (every in c("quarter", "year")) {
    again <- roll_up(scaled, every)
    direct <- roll_up(records, every)
    expect_equal(again$value, direct$value)
    expect_identical(again$standing, direct$standing)
    expect_equal(
      roll_up(scaled, every, thin = "scale")$value,
      roll_up(records, every, thin = "scale")$value
    )
  }
  # Where records are missing at both ends as well.
  cut <- roll_up(
    records_of(day[-c(1:9, 40)], kilos = rep(2, length(day) - 10)), "month",
    partial = "scale", thin = "scale"
  )
  expect_equal(cut$value, 2 * days)
  expect_identical(as.character(cut$standing[1:3]), c(
    "partial", "imputed", "complete"
  ))
  # A trace gives the way back; a file keeps it.
  file <- withr::local_tempfile(fileext = ".csv")
  write_periods(scaled, file)
  found <- trace_value(read_periods(file), "2030-01")
  expect_match(found$formula, "scaled to the full length")
  expect_equal(eval(parse(text = found$worked)), 62)
  # It was recorded, so that flags judge it, unlike what was filled in.
  halved <- ifelse(format(day, "%Y-%m") == "2030-12", 1, 2)
  fall <- records_of(day[-350], kilos = halved[-350])
  found <- flag_periods(
    roll_up(fall, "month", thin = "scale"), "last periods", c(percent = 20)
  )
  expect_identical(as.character(found$judgement[[12]]), "flagged")
  expect_equal(found$value[[12]], 31)
  # A level is a mean, which hardly moves.
  warm <- roll_up(
    records_of(day[-gone], warmth = day[-gone] - day[[1]], kind = "level"),
    "month", thin = "scale"
  )
  expect_false(any(warm$standing == "imputed"))
})

test_that("a series that starts late is as whole by any chain", {
  set.seed(5)
  for (seed in 1:10) {
    data <- rbind(
      tibble::tibble(
        day = sort(sample(day[20:700], 90)), stall = "a", kilos = 1
      ),
      tibble::tibble(
        day = sort(sample(day[80:600], 60)), stall = "b", kilos = 1
      )
    )
    records <- as_records(data, "day", c(kilos = "flow"), series = "stall")
    direct <- roll_up(records, "year", cadence = "irregular")
    chained <- roll_up(roll_up(records, "month", cadence = "irregular"), "year")
    expect_equal(as.character(chained$standing), as.character(direct$standing))
    expect_equal(chained$value, direct$value)
  }
})

test_that("sums and spreads hold at the ends of the range of numbers", {
  one_day <- as.POSIXct("2031-04-09", tz = "UTC") + 3600 * 0:3
  of <- function(value, use, kind = "flow") {
    suppressWarnings(
      roll_up(
        records_of(one_day[seq_along(value)], kilos = value, kind = kind),
        "day", use = use, cadence = "irregular"
      )$value
    )
  }
  expect_equal(of(c(1e308, 1e308, -1e308), "sum"), 1e308)
  expect_equal(
    of(c(1.7e308, 1.7e308, 1.6e308, -1.7e308)[c(1, 2, 4, 4)], "sum"), 0
  )
  expect_equal(of(c(1e308, 1.5e308), "mean", "level"), 1.25e308)
  expect_equal(
    of(4e15 + c(0, 1000, 500, 500), "sd", "level"),
    stats::sd(c(0, 1000, 500, 500))
  )
  expect_equal(of(4e15 + c(0, 1000), "sd", "level"), sqrt(5e5))
})

test_that("returns that cannot be are left out with a sentence, and silence has no highest value", {
  returns <- as_records(
    tibble::tibble(day = day[1:4], gain = c(0.1, -1.5, 0.2, -0.1)), "day",
    c(gain = "return")
  )
  expect_warning(
    monthly <- roll_up(returns, "month"), "1 return lies below -100%",
    class = "backfill_warning_values"
  )
  expect_equal(monthly$value, 1.1 * 1.2 * 0.9 - 1)
  sparse <- records_of(day[c(1, 40, 100)], kilos = c(5, 6, 7))
  found <- roll_up(
    sparse, "month", use = list(kilos = c("sum", "highest")), absent = "zero",
    cadence = "irregular"
  )
  high <- found[found$measure == "kilos_highest", ]
  expect_equal(high$value, c(5, 6, NA, 7))
  expect_identical(as.character(high$standing[3]), "empty")
  expect_equal(found$value[found$measure == "kilos_sum"], c(5, 6, 0, 7))
})

test_that("the size of a table counts its measures", {
  ends <- as.POSIXct(c("2030-01-01", "2036-06-01"), tz = "UTC")
  twice <- records_of(ends, a = c(1, 1), b = c(2, 2))
  expect_error(
    roll_up(twice, "2 seconds", cadence = "irregular"), "of 2 measures",
    class = "backfill_error_input"
  )
})
