# What series have in common, and what was known when.

monthly_matrix <- function(values, kind = "level", ...) {
  months <- seq(as.Date("2020-01-01"), by = "month", length.out = nrow(values))
  data <- data.frame(
    when = rep(months, ncol(values)),
    line = rep(letters[seq_len(ncol(values))], each = nrow(values)),
    value = as.vector(values)
  )
  data <- data[!is.na(data$value), ]
  roll_up(as_records(data, "when", c(value = kind), "line", ...), "month")
}

random_matrix <- function(rows, columns, missing = 0) {
  values <- matrix(stats::rnorm(rows * columns), rows)
  values[sample(length(values), missing)] <- NA
  values
}

ledger <- function(...) {
  read_records(
    demo_file("ledger.csv"), when = "period", series = "item",
    known = "entered", measures = c(value = "level"), ...
  )
}

test_that("coefficients are those of base R on the periods that each pair has", {
  withr::local_seed(1)
  for (missing in c(0, 25, 150)) {
    values <- random_matrix(60, 6, missing)
    values[, 6] <- round(values[, 6]) # with ties
    x <- monthly_matrix(values)
    for (method in c("pearson", "spearman", "kendall", "covariance")) {
      found <- correlations(x, method, on = "values", pairs = 3)
      of <- if (method == "covariance") stats::cov else function(x, use) {
        stats::cor(x, use = use, method = method)
      }
      known <- of(values, use = "pairwise.complete.obs")
      at <- cbind(match(found$first, letters), match(found$second, letters))
      expect_equal(
        found$coefficient, known[at], tolerance = 1e-12,
        label = paste(method, missing)
      )
      expect_equal(found$n, crossprod(!is.na(values))[at])
    }
  }
  # By default of changes; what is a change already is not differenced again.
  values <- random_matrix(50, 3)
  changes <- correlations(monthly_matrix(values))
  expect_equal(
    changes$coefficient, stats::cor(diff(values))[cbind(c(1, 1, 2), c(2, 3, 3))]
  )
  expect_match(describe(changes), "^Most (alike|opposed): ", all = FALSE)
  grown <- add_growth(monthly_matrix(exp(values)))
  percent <- 100 * (exp(diff(values)) - 1)
  expect_equal(
    correlations(grown, of = "growth_1_month")$coefficient,
    stats::cor(percent)[cbind(c(1, 1, 2), c(2, 3, 3))]
  )
})

test_that("white noise has as many independent periods as it has, and memory takes some away", {
  withr::local_seed(2)
  found <- correlations(monthly_matrix(random_matrix(120, 8)), on = "values")
  expect_true(all(found$n_effective <= found$n))
  expect_gt(mean(found$n_effective), 100)
  # Of two series with a lag-1 autocorrelation of 0.6, n (1 - r s) / (1 + r s).
  slow <- replicate(20, as.numeric(stats::arima.sim(list(ar = 0.6), 400)))
  found <- suppressWarnings(correlations(monthly_matrix(slow), on = "values"))
  expect_equal(mean(found$n_effective / 400), 0.64 / 1.36, tolerance = 0.15)
  # Unrelated, they are seldom called related.
  expect_lt(mean(found$p < 0.05), 0.1)
  pairs <- stats::cor(slow)[upper.tri(diag(20))]
  naive <- 2 * stats::pt(-abs(pairs * sqrt(398 / (1 - pairs^2))), 398)
  expect_gt(mean(naive < 0.05), 0.1)
})

test_that("the interval is Fisher's, and of white noise near that of cor.test()", {
  withr::local_seed(3)
  values <- random_matrix(40, 2)
  values[, 2] <- values[, 1] + values[, 2]
  found <- correlations(monthly_matrix(values), on = "values")
  reach <- stats::qnorm(0.975) / sqrt(found$n_effective - 3)
  expect_equal(found$lower, tanh(atanh(found$coefficient) - reach))
  known <- stats::cor.test(values[, 1], values[, 2])$conf.int
  expect_equal(c(found$lower, found$upper), as.vector(known), tolerance = 0.1)
})

test_that("sub-periods and windows are those rows alone", {
  withr::local_seed(4)
  values <- random_matrix(48, 3)
  x <- monthly_matrix(values)
  each <- correlations(x, on = "values", each = "year", pairs = 5)
  expect_identical(
    unique(each$period), as.Date(paste0(2020:2023, "-01-01"))
  )
  expect_equal(
    each$coefficient[each$period == as.Date("2021-01-01")],
    stats::cor(values[13:24, ])[cbind(c(1, 1, 2), c(2, 3, 3))]
  )
  moving <- correlations(x, on = "values", window = "1 year", pairs = 5)
  expect_equal(
    moving$coefficient[moving$period == as.Date("2022-06-01")],
    stats::cor(values[19:30, ])[cbind(c(1, 1, 2), c(2, 3, 3))]
  )
  expect_error(
    correlations(x, each = "year", window = 12), "only one",
    class = "backfill_error_argument"
  )
})

test_that("what cannot be correlated is withheld, counted and said", {
  withr::local_seed(5)
  values <- random_matrix(30, 3)
  values[, 3] <- 7
  values[11:30, 2] <- NA
  found <- suppressWarnings(
    correlations(monthly_matrix(values), on = "values", pairs = 15)
  )
  expect_identical(is.na(found$coefficient), rep(TRUE, 3))
  said <- paste(utils::capture.output(print(found)), collapse = " ")
  expect_match(said, "2 pairs have no coefficient: fewer than 15")
  expect_match(said, "1 pair has no coefficient: one of the two does not move")
  expect_error(autoplot(found), "nothing to draw")
  expect_error(
    correlations(monthly_matrix(values[, 1, drop = FALSE])), "1 series",
    class = "backfill_error_input"
  )
  drifting <- apply(random_matrix(100, 2), 2, cumsum)
  expect_warning(
    correlations(monthly_matrix(drifting), on = "values"), "trend",
    class = "backfill_warning_use"
  )
  # A return over a hole is one over a longer span.
  prices <- exp(random_matrix(40, 2) / 10)
  prices[20, 1] <- NA
  returns <- add_returns(monthly_matrix(prices), longest = 5)
  gone <- correlations(returns, of = "return")
  expect_identical(gone$n, 37L)
  expect_output(print(gone), "1 return over a longer span is left out")
})

test_that("a heat map has one scale and one order, and a missing pair is no zero", {
  withr::local_seed(6)
  base <- random_matrix(60, 1)[, 1]
  values <- cbind(base, -base, base, -base) + random_matrix(60, 4) / 3
  found <- correlations(monthly_matrix(values), on = "values", each = "year",
                        pairs = 5)
  plot <- autoplot(found)
  # Alike beside each other.
  order <- levels(plot$data$first)
  expect_true(abs(diff(match(c("a", "c"), order))) == 1)
  expect_true(abs(diff(match(c("b", "d"), order))) == 1)
  fill <- plot$scales$get_scales("fill")
  expect_identical(fill$limits, c(-1, 1))
  expect_false(fill$na.value == fill$map(0))
  pair <- autoplot(found, type = "scatter", pair = c("a", "c"))
  expect_identical(nrow(pair$data), 60L)
  expect_error(
    autoplot(found, type = "scatter", pair = c("a", "z")), "two series",
    class = "backfill_error_argument"
  )
  expect_identical(
    autoplot(found, type = "scatter", pair = c("c", "a"))$labels$x, "c"
  )
  # Series that are hardly there, or do not move, are drawn as empty panels.
  holes <- random_matrix(20, 4)
  holes[, 3] <- 5
  holes[-1, 4] <- NA
  thin <- autoplot(
    correlations(monthly_matrix(holes), pairs = 5), type = "matrix"
  )
  expect_no_error(ggplot2::ggplot_build(thin))
  many <- correlations(monthly_matrix(random_matrix(20, 12)), pairs = 5)
  expect_error(autoplot(many, type = "matrix"), "illegible")
})

test_that("vintages are no duplicates, and the last one is rolled up", {
  records <- ledger()
  expect_identical(account(records)$duplicates, c(0L, 0L))
  truth <- truths()$ledger
  expect_identical(nrow(records), truth$rows)
  expect_match(
    account(records)$notes, sprintf("%d rows are versions", truth$corrected),
    all = FALSE
  )
  rolled <- roll_up(records, "quarter")
  crew <- records[records$item == "crew signed", ]
  last <- tapply(seq_len(nrow(crew)), as.character(crew$period), function(at) {
    crew$value[at[which.max(crew$entered[at])]]
  })
  expect_identical(
    rolled$value[rolled$item == "crew signed"], as.vector(last)
  )
  expect_error(
    read_records(
      demo_file("ledger.csv"), "period", c(value = "level"), "item"
    ),
    class = "backfill_error_duplicates"
  )
  # Of two versions of one day neither is the later.
  twice <- data.frame(
    month = as.Date("2031-01-01"), known = as.Date("2031-02-10"), item = "ice",
    v = 1:2
  )
  expect_error(
    as_records(twice, "month", c(v = "level"), "item", known = "known"),
    "2031-01-01 of ice, both known on 2031-02-10, different figures",
    class = "backfill_error_duplicates"
  )
  for (wrong in list("nowhere", "value", 3)) {
    expect_error(
      read_records(
        demo_file("ledger.csv"), "period", c(value = "level"), "item",
        known = wrong
      ),
      class = "backfill_error"
    )
  }
})

# By hand: on a day, of what was entered by then, the latest period in its
# latest version.
known_by_hand <- function(records, item, day) {
  rows <- records[records$item == item & records$entered <= day, ]
  rows <- rows[order(rows$period, rows$entered), ]
  if (nrow(rows) == 0) NA_real_ else rows$value[[nrow(rows)]]
}

test_that("on each day a series has what was known of it then", {
  records <- ledger()
  days <- as.Date("2028-01-01") + seq(0, 1400, by = 37)
  aligned <- align_as_of(records, days)
  expect_identical(nrow(aligned), length(days) * 5L)
  expect_identical(anyDuplicated(aligned[c("series", "on")]), 0L)
  plain <- tibble::as_tibble(as.data.frame(records))
  for (i in seq(1, nrow(aligned), by = 7)) {
    expect_identical(
      aligned$value[[i]],
      known_by_hand(plain, aligned$series[[i]], aligned$on[[i]])
    )
  }
  # The records of one day give the same.
  day <- days[[20]]
  then <- as_known_on(records, day)
  expect_true(all(then$entered <= day))
  latest <- vapply(unique(aligned$series), function(item) {
    rows <- then[then$item == item, ]
    rows$value[[which.max(rows$period)]]
  }, 0)
  expect_identical(unname(latest), aligned$value[aligned$on == day])
})

test_that("a day later in publication moves just the days in between, and the future moves nothing", {
  records <- ledger()
  days <- as.Date("2029-01-01") + 0:400
  before <- align_as_of(records, days)
  late <- records
  late$entered <- late$entered + 1
  after <- align_as_of(late, days)
  for (item in unique(before$series)) {
    old <- before$value[before$series == item]
    new <- after$value[after$series == item]
    expect_identical(new[-1], old[-length(old)])
  }
  wild <- records
  future <- wild$entered > as.Date("2029-06-30")
  wild$value[future] <- wild$value[future] * 100
  known <- before$on <= as.Date("2029-06-30")
  expect_identical(
    align_as_of(wild, days)$value[known], before$value[known]
  )
})

test_that("periods are carried by a delay that is said, up to an age, and no further", {
  monthly <- monthly_matrix(cbind(1:12, c(1:5, NA, 7:12)))
  expect_error(
    align_as_of(monthly, "month"), "not said when figures of a and b",
    class = "backfill_error_argument"
  )
  on <- as.Date(c("2020-02-09", "2020-02-10", "2020-08-15"))
  found <- align_as_of(monthly, on, delay = 10)
  expect_identical(found$value, c(NA, 1, 7, NA, 1, 7))
  expect_identical(
    found$reference[c(2, 3)], as.Date(c("2020-01-01", "2020-07-01"))
  )
  expect_identical(found$age[c(2, 3)], c(10L, 15L))
  # Where a month is missing the one before is carried on, unless it is too old.
  july <- as.Date("2020-07-31")
  expect_identical(
    align_as_of(monthly, july, delay = 10)$value, c(6, 5)
  )
  old <- align_as_of(monthly, july, delay = 10, max_age = 45)
  expect_identical(old$value, c(6, NA))
  expect_identical(old$missing, c("", "too old"))
  at_once <- align_as_of(monthly, "month", delay = 0)
  expect_output(print(at_once), "known as soon as their periods end: a and b")
  each <- align_as_of(monthly, july, delay = c(a = 40, b = 0))
  expect_identical(each$value, c(5, 7))
  # A base of its own, and several tables of unlike calendars.
  expect_identical(
    align_as_of(monthly, "b", delay = 0)$on[1:3],
    as.Date(c("2020-01-31", "2020-02-29", "2020-03-31"))
  )
  mixed <- align_as_of(list(monthly, ledger()), "quarter", delay = 5)
  expect_identical(length(unique(mixed$series)), 7L)
  expect_error(
    align_as_of(ledger(), "quarter", delay = 5), "the records tell",
    class = "backfill_error_argument"
  )
  expect_error(
    align_as_of(
      list(monthly, ledger()), "quarter", delay = c(
        a = 1, b = 1, "ice sold" = 2
      )
    ),
    "figures of ice sold", class = "backfill_error_argument"
  )
  expect_error(
    align_as_of(list(monthly, monthly), "month", delay = 1), "Two tables",
    class = "backfill_error_input"
  )
  expect_error(
    align_as_of(monthly, "month", delay = c(z = 1, a = 1, b = 1)),
    "not a series", class = "backfill_error_argument"
  )
  expect_error(
    align_as_of(1:3, "month"), class = "backfill_error_input"
  )
  expect_error(
    as_known_on(crossings(), "2030-01-01"), class = "backfill_error_input"
  )
})

inns_of_these_months <- function() roll_up(inns(), "month")

quarters_of_the_isles <- function() {
  landed <- read_records(
    demo_file("landings.csv"), when = "date", duplicates = "keep",
    measures = c(kilos = "flow"), missing = "unsold"
  )
  put_together(
    roll_up(ledger(), "quarter"), roll_up(landed, "quarter", enough = 0.9)
  )
}

test_that("the lead that was planted is found, and the decoys are not", {
  found <- rank_links(quarters_of_the_isles(), "kilos", ahead = 0:3)
  named <- found[which(found$q < 0.1), ]
  expect_identical(named$candidate, "crew signed")
  lag <- as.integer(truths()$landings$crew_lag_quarters)
  expect_identical(as.integer(named$ahead), lag)
  expect_true(named$same_sign)
  expect_output(print(found), "of pure noise\\s+about 1 would")
})

test_that("a link is that of the shifted changes, by hand", {
  withr::local_seed(7)
  values <- apply(random_matrix(60, 3), 2, cumsum)
  found <- rank_links(monthly_matrix(values), "b", ahead = c(0, 2), c(1, 3))
  for (i in seq_len(nrow(found))) {
    h <- found$horizon[[i]]
    k <- found$ahead[[i]]
    change <- values[-seq_len(h), ] - values[seq_len(60 - h), ]
    n <- nrow(change)
    expect_equal(
      found$coefficient[[i]],
      stats::cor(
        change[seq_len(n - k), match(found$candidate[[i]], letters)],
        change[seq(1 + k, n), 2]
      )
    )
    expect_identical(found$n[[i]], as.integer(n - k))
  }
  expect_equal(found$q, stats::p.adjust(found$p, "BH"))
})

test_that("how steady a link is: halves, horizons and a second target, by hand", {
  withr::local_seed(21)
  values <- apply(random_matrix(61, 5), 2, cumsum)
  values[5:9, 2] <- NA
  x <- monthly_matrix(values)
  found <- rank_links(x, "a", c(0, 1), c(1, 2), second = "e")
  half_of <- function(i, later) {
    h <- found$horizon[[i]]
    k <- found$ahead[[i]]
    change <- rbind(
      matrix(NA, h, 5), values[-seq_len(h), ] - values[seq_len(61 - h), ]
    )
    target <- c(change[seq(1 + k, 61), 1], rep(NA, k))
    middle <- stats::median(which(!is.na(target)))
    rows <- if (later) seq_len(61) > middle else seq_len(61) <= middle
    stats::cor(
      target[rows], change[rows, match(found$candidate[[i]], letters)],
      use = "complete.obs"
    )
  }
  rows <- seq_len(nrow(found))
  first <- vapply(rows, half_of, 0, later = FALSE)
  later <- vapply(rows, half_of, 0, later = TRUE)
  expect_identical(found$same_sign, sign(first) == sign(later))
  expect_identical(found$rank_first, rank(-abs(first)) |> as.integer())
  expect_identical(found$rank_later, rank(-abs(later)) |> as.integer())
  of <- paste(found$candidate, found$ahead)
  alike <- tapply(found$coefficient, of, function(r) prod(sign(r)) > 0)
  expect_identical(found$same_over_horizons, as.vector(alike[of]))
  other <- rank_links(x, "e", c(0, 1), c(1, 2))
  keys <- c("candidate", "horizon", "ahead")
  both <- merge(found[keys], as.data.frame(other)[c(keys, "coefficient")])
  at <- vctrs::vec_match(
    vctrs::new_data_frame(both[keys]), vctrs::new_data_frame(
      as.list(found)[keys], n = nrow(found)
    )
  )
  expect_identical(found$with_second[at], both$coefficient)
  expect_true(all(is.na(found$with_second[found$candidate == "e"])))
})

test_that("within each value of a column the pairs are those of its series alone", {
  withr::local_seed(22)
  month <- seq(as.Date("2020-01-01"), by = "month", length.out = 40)
  data <- expand.grid(
    when = month, fish = c("cod", "ling", "eel"), isle = c("Bryn", "Marra")
  )
  data$value <- stats::rnorm(nrow(data))
  x <- roll_up(as_records(
    data, "when", c(value = "level"), c("isle", "fish")
  ), "month")
  found <- correlations(x, on = "values", by = "isle")
  expect_identical(unique(found$group), c("Bryn", "Marra"))
  for (isle in c("Bryn", "Marra")) {
    alone <- correlations(
      roll_up(as_records(
        data[data$isle == isle, -3], "when", c(value = "level"), "fish"
      ), "month"),
      on = "values"
    )
    here <- found[found$group == isle, ]
    expect_identical(here$coefficient, alone$coefficient)
    expect_identical(here$first, alone$first)
    expect_identical(here$p, alone$p)
  }
  expect_s3_class(autoplot(found), "ggplot")
  strongest <- found[which.max(found$coefficient), ]
  expect_match(
    describe(found), fixed = TRUE, all = FALSE, sprintf(
      "Most alike: %s and %s of %s (", strongest$first, strongest$second,
      strongest$group
    )
  )
  each <- correlations(x, on = "values", by = "isle", each = "year", pairs = 5)
  expect_identical(nrow(each), 3L * 4L * 2L)
  expect_error(correlations(x, by = "fish"), NA)
  expect_error(
    correlations(x, by = "port"), class = "backfill_error_argument"
  )
  expect_error(
    correlations(monthly_matrix(random_matrix(30, 3)), by = "line"),
    "two series or more", class = "backfill_error_argument"
  )
  expect_error(
    autoplot(found, type = "matrix"), class = "backfill_error_argument"
  )
})

test_that("carried series are linked as periods are", {
  withr::local_seed(23)
  x <- monthly_matrix(apply(random_matrix(50, 4), 2, cumsum))
  carried <- align_as_of(x, on = "month", delay = 0)
  expect_equal(
    as.data.frame(rank_links(carried, "b", 0:2)),
    as.data.frame(rank_links(x, "b", 0:2))
  )
  expect_equal(
    correlations(carried, window = "1 year")$coefficient,
    correlations(x, window = "1 year")$coefficient
  )
  days <- align_as_of(
    x, unique(x$period) + 40, delay = c(a = 0, b = 3, c = 5, d = 9)
  )
  expect_identical(
    correlations(days)$coefficient, correlations(x)$coefficient
  )
  expect_match(
    describe(rank_links(days, "b", 1)), "candidates are set against b",
    all = FALSE
  )
  expect_error(
    correlations(carried, of = "age"), class = "backfill_error_column"
  )
})

test_that("growth is taken along a series' own periods, of what was known then", {
  figures <- data.frame(
    month = as.Date(c(
      "2030-01-01", "2030-02-01", "2031-01-01", "2030-01-01", "2031-02-01",
      "2031-01-01"
    )),
    known = as.Date(c(
      "2030-02-10", "2030-03-10", "2031-02-10", "2031-02-20", "2031-03-10",
      "2031-03-20"
    )),
    v = c(100, 200, 110, 80, 230, 120)
  )
  records <- as_records(figures, "month", c(v = "level"), known = "known")
  grown <- align_as_of(records, as.Date(c(
    "2031-01-31", "2031-02-10", "2031-02-19", "2031-02-20", "2031-03-10",
    "2031-03-20"
  )), growth = "1 year")
  # January's growth; that over its corrected base; February's, which the later
  # correction of January does not touch.
  expect_equal(grown$value, c(NA, 10, 10, 37.5, 15, 15))
  expect_identical(grown$missing[[1]], "not known yet")
  # Of periods it is what add_growth() gives, carried.
  monthly <- roll_up(inns(), "month")
  expect_equal(
    align_as_of(monthly, "month", delay = 5, growth = "1 year")$value,
    align_as_of(
      add_growth(monthly, "1 year"), "month", delay = 5, of = "growth_1_year"
    )$value
  )
  # A day later in publication moves the day on which growth is known.
  later <- figures
  later$known <- later$known + 1
  days <- seq(as.Date("2031-02-01"), as.Date("2031-04-01"), by = 1)
  at <- function(x, days) {
    align_as_of(
      as_records(x, "month", c(v = "level"), known = "known"), days,
      growth = "1 year"
    )$value
  }
  expect_identical(at(later, days + 1), at(figures, days))
  expect_error(
    align_as_of(records, "month", growth = "1 hour"),
    class = "backfill_error_argument"
  )
})

test_that("growth as it was known is that of a slow oracle, whatever is corrected", {
  withr::local_seed(24)
  for (round in 1:15) {
    months <- seq(as.Date("2029-01-01"), by = "month", length.out = 20)
    versions <- sample(0:3, 20, TRUE, c(1, 2, 2, 2))
    data <- data.frame(month = rep(months, versions))
    data$known <- data$month + 31 + sample(0:400, nrow(data))
    data$v <- round(stats::runif(nrow(data), -2, 10), 2)
    span <- sample(c(1, 3, 12), 1)
    days <- as.Date("2029-02-01") + sort(sample(0:899, 40))
    found <- align_as_of(
      as_records(data, "month", c(v = "level"), known = "known"), days,
      growth = sprintf("%d months", span)
    )
    wanted <- vapply(days, function(day) {
      seen <- data[data$known <= day, ]
      seen <- seen[order(seen$known), ]
      last <- seen$v[!duplicated(seen$month, fromLast = TRUE)]
      month <- seen$month[!duplicated(seen$month, fromLast = TRUE)]
      base <- last[match(match(month, months) - span, match(month, months))]
      growth <- ifelse(base > 0, 100 * (last / base - 1), NA)
      growth <- growth[order(month)]
      c(rev(growth[!is.na(growth)]), NA)[[1]]
    }, 0)
    expect_equal(found$value, wanted)
  }
})

test_that("among noise alone a link is seldom named, also where it is carried to shorter periods", {
  withr::local_seed(8)
  named <- replicate(40, {
    values <- apply(random_matrix(48, 25), 2, cumsum)
    any(rank_links(monthly_matrix(values), "a", 0:3)$q < 0.1, na.rm = TRUE)
  })
  # At 10%, 40 worlds have more than 9 in 1 case of 100.
  expect_lte(sum(named), 9)
  carried <- replicate(30, {
    slow <- rep(stats::rnorm(40), each = 12)
    values <- cbind(slow, cumsum(stats::rnorm(480)))
    rank_links(monthly_matrix(values), "b", 0, 12)$p < 0.05
  })
  expect_lte(mean(carried, na.rm = TRUE), 0.2)
})

test_that("a figure that looks ahead explains nothing, and bad calls are refused", {
  withr::local_seed(9)
  x <- monthly_matrix(exp(random_matrix(40, 3)))
  ahead <- add_growth(x, forward = TRUE)
  expect_error(
    rank_links(ahead, "a", of = "growth_ahead_1_month"), "looks ahead",
    class = "backfill_error_column"
  )
  expect_error(
    align_as_of(ahead, "month", delay = 0, of = "growth_ahead_1_month"),
    "looks ahead", class = "backfill_error_column"
  )
  expect_error(rank_links(x, "z"), class = "backfill_error_argument")
  still <- monthly_matrix(cbind(random_matrix(40, 2), 5))
  expect_match(
    describe(rank_links(still, "c")), "no pair can be judged", all = FALSE
  )
  expect_error(
    rank_links(x, "a", ahead = -1), class = "backfill_error_argument"
  )
  expect_error(
    put_together(x, roll_up(x, "quarter")), "unlike calendars",
    class = "backfill_error_input"
  )
  expect_error(put_together(x, x), "Two tables", class = "backfill_error_input")
  both <- put_together(
    x, rename_measures(inns_of_these_months(), nights = "guest_nights")
  )
  expect_identical(
    sum(both$value, na.rm = TRUE),
    sum(x$value, inns_of_these_months()$value, na.rm = TRUE)
  )
})

test_that("no figure is known before its period has ended, however long that is", {
  carried <- function(first, by, on) {
    day <- seq(as.Date(first), by = by, length.out = 6)
    x <- as_records(
      data.frame(day = day, v = 1:6), "day", c(v = "level")
    )
    align_as_of(x, as.Date(on), delay = 0)$value
  }
  expect_identical(
    carried("2028-01-01", "6 months", c("2028-06-29", "2028-06-30")), c(NA, 1)
  )
  expect_identical(
    carried("2028-04-01", "1 year", c("2029-03-30", "2029-03-31")), c(NA, 1)
  )
  expect_identical(
    carried("2028-02-01", "3 months", c("2028-04-29", "2028-04-30")), c(NA, 1)
  )
  expect_identical(
    carried("2028-01-03", "2 weeks", c("2028-01-15", "2028-01-16")), c(NA, 1)
  )
  # A last day names the period that ends there.
  expect_identical(
    carried("2027-12-31", "1 year", c("2027-12-30", "2027-12-31")), c(NA, 1)
  )
})

test_that("links come from the command line too", {
  folder <- withr::local_tempdir()
  read <- c(
    "links", demo_file("ledger.csv"), "--when", "period", "--known", "entered",
    "--series", "item", "--measure", "value:level", "--quiet", "--format", "csv"
  )
  table_of <- function(...) {
    ran <- command_line(read, ..., dir = folder)
    expect_identical(ran$status, 0L, label = paste(ran$err, collapse = " "))
    data.table::fread(text = ran$out, data.table = FALSE)
  }
  quarterly <- roll_up(ledger(), "quarter")
  expect_equal(
    table_of("--every", "quarter", "--method", "kendall")$coefficient,
    correlations(quarterly, "kendall")$coefficient
  )
  expect_equal(
    table_of("--every", "quarter", "--target", "ice sold", "--ahead", "0,1")$q,
    rank_links(quarterly, "ice sold", 0:1)$q
  )
  expect_equal(
    table_of("--as-of", "month", "--max-age", "60")$value,
    align_as_of(ledger(), "month", max_age = 60)$value
  )
  # A target among series as they were known, in one command.
  known <- align_as_of(ledger(), "month", growth = "1 year")
  as_of <- c("--as-of", "month", "--growth", "1 year", "--target", "ice sold")
  expect_equal(
    table_of(as_of, "--ahead", "0,1")$q, rank_links(known, "ice sold", 0:1)$q
  )
  expect_equal(
    table_of(as_of, "--tree")$predicted,
    explain_target(known, "ice sold")$predicted
  )
  for (figure in list(
    c("--every", "quarter"), c("--as-of", "month"), as_of,
    c("--every", "quarter", "--target", "ice sold")
  )) {
    ran <- command_line(read, figure, "--figure", "a.png", dir = folder)
    expect_identical(ran$status, 0L, label = paste(figure, collapse = " "))
    expect_gt(file.size(file.path(folder, "a.png")), 1000)
  }
  for (wrong in list(
    c("--ahead", "1"), c("--delay", "3"),
    c("--as-of", "month", "--method", "kendall"),
    c("--target", "nobody"), c("--target", "ice sold", "--delay", "3"),
    c("--as-of", "month", "--returns", "simple"),
    c("--as-of", "month", "--target", "ice sold", "--returns", "simple")
  )) {
    ran <- command_line(read, wrong, dir = folder)
    expect_identical(ran$status, 2L, label = paste(wrong, collapse = " "))
  }
})

test_that("a target has no outcomes after its own last record", {
  withr::local_seed(1)
  months_of <- function(count, name) {
    month <- seq(as.Date("2028-01-01"), by = "month", length.out = count)
    level <- 50 + cumsum(stats::rnorm(count))
    table <- stats::setNames(data.frame(month, level), c("month", name))
    roll_up(
      as_records(table, "month", stats::setNames("level", name)), "month"
    )
  }
  indicator <- months_of(48, "indicator")
  target <- months_of(30, "target")
  both <- align_as_of(
    list(indicator, target), on = "month",
    delay = c(indicator = 5, target = 5)
  )
  # 29 changes of the target, and one fewer for each period ahead.
  found <- rank_links(both, "target", ahead = 0:2, horizons = 1)
  expect_identical(found$n[order(found$ahead)], 29:27)
  known <- both[both$series == "target" & !is.na(both$value), ]
  last <- max(known$on[!duplicated(known$reference)])
  explained <- explain_target(both, "target")
  expect_lte(max(explained$to), last)
  expect_false(any(explained$actual == 0))
})

test_that("growth over less than a period is refused, not unknown for ever", {
  day <- seq(as.Date("2029-01-01"), as.Date("2031-12-31"), by = 1)
  of <- function(name, every) {
    roll_up(as_records(
      data.frame(day, v = 1, s = name), "day", c(v = "flow"), series = "s"
    ), every)
  }
  tables <- list(of("a", "month"), of("q", "quarter"))
  expect_error(
    align_as_of(tables, "month", delay = 0, growth = "1 month"),
    "shorter than the periods of q", class = "backfill_error_argument"
  )
  by_quarter <- align_as_of(tables, "month", delay = 0, growth = "3 months")
  expect_gt(sum(!is.na(by_quarter$value[by_quarter$series == "q"])), 30)
})

test_that("what only a season has in common is no link", {
  withr::local_seed(31)
  when <- seq(as.Date("2020-01-01"), by = "month", length.out = 72)
  # One month far off does not hide a season from its changes.
  of_season <- function(size) {
    replace(size * sin(2 * pi * seq_len(72) / 12), 40, -12) + rnorm(72)
  }
  made <- roll_up(records_of(
    rep(when, 4), port = rep(c("Ard", "Bel", "Cor", "Dun"), each = 72),
    x = c(of_season(3), of_season(4), of_season(0), of_season(0)),
    series = "port", kind = "level"
  ), "month")
  found <- suppressWarnings(correlations(made, on = "values"))
  alike <- found$first == "Ard" & found$second == "Bel"
  expect_true(all(is.na(found$p[alike]), is.na(found$upper[alike])))
  expect_false(anyNA(found$p[!alike]))
  expect_gt(found$coefficient[alike], 0.8)
  expect_output(print(found), "1 pair gets no interval")
  links <- rank_links(made, "Ard", ahead = 0, horizons = c(1, 12))
  short <- links$horizon == 1
  expect_identical(
    links$candidate[is.na(links$q)], "Bel"
  )
  expect_true(all(!is.na(links$p[!short])))
})

test_that("a line without a return is named, not its pairs said to be short", {
  withr::local_seed(12)
  day <- seq(as.Date("2029-01-01"), by = "day", length.out = 700)
  x <- add_returns(roll_up(as_records(
    data.frame(
      day, sold = stats::rpois(700, 40),
      price = exp(cumsum(stats::rnorm(700, 0, 0.01))),
      cost = exp(cumsum(stats::rnorm(700, 0, 0.01)))
    ),
    "day", c(sold = "flow", price = "level", cost = "level")
  ), "month"))
  said <- backfill:::describe(correlations(x, of = "return"))
  expect_match(
    said, "sold has no return, and so no coefficient with any other.",
    fixed = TRUE, all = FALSE
  )
  expect_no_match(said, "in common")
  short <- correlations(x[x$period < as.Date("2029-07-01"), ], of = "value")
  expect_match(
    backfill:::describe(short), "3 pairs have no coefficient: fewer than 10",
    all = FALSE
  )
})
