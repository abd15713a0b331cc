# Tables below each other, and rows that a join has doubled.

months_like <- function(name = "kilos", kind = "flow", unit = NULL,
                        sites = c("Kell", "Brod"), every = "month",
                        from = "2028-01-01") {
  month <- seq(as.Date(from), by = "month", length.out = 12)
  table <- data.frame(
    month = rep(month, 2), site = rep(sites, each = 12),
    amount = 1:24 * 2
  )
  names(table)[[3]] <- name
  roll_up(as_records(
    table, "month", stats::setNames(list(measure(kind, unit = unit)), name),
    series = "site"
  ), every)
}

test_that("tables that can be one are, and know all of each", {
  one <- months_like()
  both <- rbind(one, months_like("price", "level"))
  expect_s3_class(both, "backfill_periods")
  quarters <- roll_up(both, "quarter")
  expect_equal(
    quarters$value[quarters$measure == "price"],
    roll_up(months_like("price", "level"), "quarter")$value
  )
  expect_equal(
    quarters$value[quarters$measure == "kilos"], roll_up(one, "quarter")$value
  )
  later <- rbind(one, months_like(from = "2029-01-01"))
  expect_identical(sum(!is.na(add_growth(later, "1 year")$growth_1_year)), 24L)
  other <- rbind(one, months_like(sites = c("Ness", "Holm")))
  expect_identical(nrow(unique(other["site"])), 4L)
  expect_identical(nrow(rbind(one[1:3, ], one[4:24, ])), 24L)
  # A data frame of another sort makes a plain one.
  expect_false(inherits(
    rbind(one, as.data.frame(unclass(one))), "backfill_table"
  ))
})

test_that("tables whose facts differ are refused, by rbind and by dplyr", {
  one <- months_like()
  unlike <- list(
    kind = months_like(kind = "level"), unit = months_like(unit = "tonnes"),
    calendar = roll_up(months_like(), "quarter")
  )
  three <- add_moving(one, 3)
  for (name in names(unlike)) {
    expect_error(
      rbind(one, unlike[[name]]), "cannot be put below each other",
      class = "backfill_error_input", label = name
    )
    skip_if_not_installed("dplyr")
    expect_error(
      dplyr::bind_rows(one, unlike[[name]]), "cannot be put below each other",
      label = name
    )
  }
  expect_error(
    rbind(three, add_moving(one, 6)), "moving_mean",
    class = "backfill_error_input"
  )
  expect_error(rbind(one, inns()), class = "backfill_error_input")
  tokyo <- as_records(
    data.frame(time = as.POSIXct("2031-01-01", tz = "UTC") + 3600 * 1:30,
               kilos = 1:30),
    "time", c(kilos = "flow"), zone = "Asia/Tokyo"
  )
  utc <- as_records(
    data.frame(time = as.POSIXct("2031-01-01", tz = "UTC") + 3600 * 1:30,
               kilos = 1:30), "time", c(kilos = "flow")
  )
  expect_error(rbind(tokyo, utc), "zone", class = "backfill_error_input")
})

test_that("rows that a join has doubled are noticed, and rows filtered out are told", {
  r <- read_plain(plain_records())
  keys <- data.frame(site = c("Kell", "Brod", "Brod"), basin = c("a", "b", "c"))
  doubled <- list(
    rbind(r, r), r[c(seq_len(nrow(r)), 5), ], r[rep(seq_len(nrow(r)), 2), ]
  )
  if (requireNamespace("dplyr", quietly = TRUE)) {
    doubled <- c(doubled, list(
      suppressWarnings(dplyr::left_join(r, keys, by = "site")),
      dplyr::bind_rows(r, r)
    ))
  }
  for (table in doubled) {
    for (verb in list(
      function(x) roll_up(x, "month"), account, function(x) {
        keep_dates(x, from = "2029")
      }, function(x) cycle_profile(x, "month")
    )) {
      expect_error(verb(table), "stand twice", class = "backfill_error_input")
    }
  }
  expect_match(
    account(r[r$site == "Kell", ])$notes,
    "48 of 96 rows are kept; 48 were left out by other means", all = FALSE
  )
  kept <- keep_dates(r, from = "2029")
  expect_false(any(grepl("other means", account(kept)$notes)))
  # Files of their own go below each other.
  more <- read_plain(plain_records(sites = c("Ness", "Holm")))
  both <- rbind(r, more)
  expect_identical(account(both)$rows_used, 192L)
  expect_identical(nrow(unique(roll_up(both, "year")["site"])), 4L)
})

test_that("long integers name series as they are, and a matrix is refused", {
  skip_if_not_installed("bit64")
  id <- bit64::as.integer64("9007199254740992") + 0:1
  table <- data.frame(day = as.Date("2031-01-01") + 0:5, kilos = 1:6)
  table$id <- rep(id, 3)
  weekly <- roll_up(
    as_records(table, "day", c(kilos = "flow"), series = "id"), "week"
  )
  expect_identical(unique(weekly$id), as.character(id))
  table$kilos <- matrix(1:12, 6)
  expect_error(
    as_records(table, "day", c(kilos = "flow"), series = "id"), "a matrix",
    class = "backfill_error_column"
  )
})

test_that("a table kept by a version that knew less of calendars goes with today's", {
  of <- function(shop, from) {
    roll_up(as_records(
      data.frame(
        month = seq(as.Date(from), by = "month", length.out = 12), shop,
        kilos = 1:12 + 0
      ), "month", c(kilos = "flow"), series = "shop"
    ), "month")
  }
  earlier <- of("a", "2030-01-01")
  known <- attr(earlier, "backfill")
  known$calendar["weeks"] <- NULL
  attr(earlier, "backfill") <- known
  file <- withr::local_tempfile(fileext = ".csv")
  write_periods(earlier, file)
  kept <- read_periods(file)
  expect_identical(nrow(rbind(kept, of("b", "2031-01-01"))), 24L)
  expect_identical(nrow(put_together(kept, of("b", "2030-01-01"))), 24L)
  expect_identical(roll_up(kept, "year")$value, 78)
})
