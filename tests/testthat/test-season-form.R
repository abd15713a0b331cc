# By ratios or by differences: what `form = "auto"` takes.

# Months of one series, or of several by name.
months_of <- function(...) {
  series <- list(...)
  n <- length(series[[1]])
  roll_up(as_records(data.frame(
    month = rep(
      seq(as.Date("2020-01-01"), by = "month", length.out = n), length(series)
    ),
    inn = rep(names(series), each = n), nights = unlist(series)
  ), "month", c(nights = "level"), series = "inn"), "month")
}

season12 <- c(0.3, 0.2, 0.1, 0, -0.1, -0.2, -0.3, -0.2, -0.1, 0, 0.1, 0.2)
facts_of <- function(x) attributes(x)$backfill

level96 <- 100 * exp(0.1 * seq_len(96) / 12)
of_ratios <- function(noise) level96 * (1 + season12) * exp(noise)
of_differences <- function(noise) level96 + 100 * season12 + 100 * noise

test_that("the form that made the figures is found, and told with its reason", {
  noise <- withr::with_seed(3, matrix(stats::rnorm(96 * 40, 0, 0.03), 96))
  taken <- function(make, i) {
    facts_of(
      seasonal_index(months_of(a = make(noise[, i])), form = "auto")
    )$form
  }
  forms <- vapply(1:20, function(i) {
    c(taken(of_ratios, i), taken(of_differences, i + 20))
  }, c("", ""))
  expect_gte(mean(forms[1, ] == "multiplicative"), 0.95)
  expect_gte(mean(forms[2, ] == "additive"), 0.95)
  # One figure that is far off decides nothing.
  off <- replace(rep(0, 96), 40, log(1.6))
  expect_identical(taken(function(noise) {
    replace(of_differences(noise), 40, 2 * level96[[40]])
  }, 5), "additive")
  expect_identical(taken(function(noise) of_ratios(noise + off), 5),
                   "multiplicative")
  x <- months_of(
    a = of_ratios(noise[, 1]), b = of_ratios(noise[, 2]),
    c = of_differences(noise[, 3])
  )
  expect_match(
    backfill:::sentences_of(seasonal_index(x, form = "auto")), paste(
      "Ratios were used because they fit better than differences over all 3",
      "series; differences fit c better."
    ), all = FALSE
  )
})

test_that("the choice is that of the likelihoods, whatever the unit", {
  withr::local_seed(8)
  for (i in 1:12) {
    value <- exp(stats::rnorm(60, 4, 0.2)) + stats::runif(1, 0, 300)
    value[sample(60, 4)] <- NA
    left <- function(form) {
      steps <- summary(
        seasonal_index(months_of(a = value), form = form), type = "worksheet"
      )
      off <- if (form == "additive") {
        steps$difference - steps$raw_index
      } else {
        log(steps$ratio / steps$raw_index)
      }
      list(off = abs(off[!is.na(off)]), value = steps$value[!is.na(off)])
    }
    ratios <- left("multiplicative")
    gain <- length(ratios$off) *
      (log(mean(left("additive")$off)) - log(mean(ratios$off))) -
      sum(log(ratios$value))
    taken <- function(x) {
      facts_of(seasonal_index(months_of(a = x), form = "auto"))$form
    }
    wanted <- if (gain > -log(3)) "multiplicative" else "additive"
    expect_identical(taken(value), wanted)
    expect_identical(taken(value * 1e-4), wanted)
  }
})

test_that("without ratios, differences are taken; what is asked for stays", {
  x <- months_of(a = level96, b = level96 - level96[[7]])
  index <- seasonal_index(x, form = "auto")
  expect_match(backfill:::sentences_of(index), paste(
    "Differences were used because ratios need values above zero \\(b\\)."
  ), all = FALSE)
  expect_equal(
    as.data.frame(index), as.data.frame(seasonal_index(x, form = "additive"))
  )
  expect_error(
    project(x, 6, base = "growth", form = "auto"), "additive",
    class = "backfill_error_argument"
  )
  # With one ratio at each month nothing is left to compare.
  for (short in list(level96[1:24], rep(100 + 1:12, 4))) {
    found <- seasonal_index(months_of(a = short), form = "auto")
    expect_match(
      backfill:::sentences_of(found),
      "Ratios were used; it cannot be told whether differences fit better.",
      all = FALSE
    )
    expect_identical(facts_of(found)$form, "multiplicative")
  }
  good <- months_of(a = level96)
  expect_identical(
    seasonal_index(good, form = "auto")$index, seasonal_index(good)$index
  )
  ahead <- project(good, 6, form = "auto")
  expect_equal(as.data.frame(ahead), as.data.frame(project(good, 6)))
  expect_match(
    backfill:::sentences_of(ahead), "^Ratios were used", all = FALSE
  )
  file <- withr::local_tempfile(fileext = ".json")
  write_index(index, file)
  expect_equal(
    as.data.frame(deseasonalise(x, read_index(file))),
    as.data.frame(deseasonalise(x, index))
  )
})

test_that("outliers do not decide: the index is that of the rest", {
  noise <- withr::with_seed(3, matrix(stats::rnorm(96 * 12, 0, 0.03), 96))
  for (make in list(of_ratios, of_differences)) {
    value <- make(noise[, 1])
    for (size in c(1.6, 5, 50)) {
      odd <- replace(value, c(31, 58), size * value[c(31, 58)])
      form <- facts_of(
        seasonal_index(months_of(a = value), form = "auto")
      )$form
      found <- seasonal_index(months_of(a = odd), form = form)
      rest <- seasonal_index(
        months_of(a = replace(odd, c(31, 58), NA)), form = form,
        combine = "mean"
      )
      expect_identical(facts_of(found)$form, form)
      for (column in c("index", "n", "sd", "lowest", "highest")) {
        expect_equal(found[[column]], rest[[column]], label = column)
      }
      expect_identical(found$disagree[c(7, 10)], c("2022", "2024"))
      sheet <- summary(found, type = "worksheet")
      expect_identical(which(is.na(sheet[[7]]))[7:8], c(31L, 58L))
      # The averages around them are traced without them.
      for (row in c(2, 7)) {
        traced <- trace_value(
          found, row = row, column = "index", made_of = months_of(a = odd)
        )
        expect_match(traced$formula[[1]], sprintf(
          "^mean without outliers of %d", found$n[[row]]
        ))
      }
      # They are adjusted as all others are.
      expect_false(anyNA(deseasonalise(months_of(a = odd), found)$adjusted))
      expect_match(
        backfill:::sentences_of(found),
        "Left out as outliers: a July (2022) and a October (2024).",
        fixed = TRUE, all = FALSE
      )
    }
  }
  # Nothing is left out of clean figures, but once in twenty series.
  left_out <- vapply(seq_len(12), function(i) {
    index <- seasonal_index(months_of(a = of_ratios(noise[, i])))
    any(nzchar(index$disagree))
  }, NA)
  expect_lte(sum(left_out), 3)
  # Where more than a tenth stands apart, that is how the figures are.
  wild <- replace(of_ratios(noise[, 1]), seq(8, 88, 7), 500)
  expect_identical(
    seasonal_index(months_of(a = wild))$index,
    seasonal_index(months_of(a = wild), combine = "mean")$index
  )
})

test_that("no series changes another, unless the figures of all are to decide", {
  noise <- withr::with_seed(9, matrix(stats::rnorm(96 * 2, 0, 0.03), 96))
  alone <- months_of(a = of_ratios(noise[, 1]))
  beside <- months_of(
    a = of_ratios(noise[, 1]),
    b = 40 * replace(of_differences(noise[, 2]), c(20, 70), 900)
  )
  of_a <- function(table) as.data.frame(table)[table$inn == "a", ]
  same <- function(make) {
    expect_equal(of_a(make(beside)), of_a(make(alone)), ignore_attr = TRUE)
  }
  same(seasonal_index)
  same(function(x) seasonal_index(x, form = "additive"))
  same(function(x) project(x, 6))
  same(deseasonalise)
})

test_that("where no form is asked for, series that the other one fits are named", {
  withr::local_seed(11)
  noise <- matrix(stats::rnorm(96 * 3, 0, 0.03), 96)
  said <- function(x) {
    grep("^Differences fit", backfill:::sentences_of(x), value = TRUE)
  }
  one <- months_of(a = of_differences(noise[, 1]))
  alone <- paste(
    "Differences fit better than ratios: make the index with `form` as",
    "\"additive\"."
  )
  expect_identical(said(seasonal_index(one)), alone)
  expect_identical(said(project(one, 3)), alone)
  expect_identical(said(deseasonalise(one)), alone)
  # Who asks for a form, has the right one or no season, is told nothing.
  for (index in list(
    seasonal_index(one, form = "multiplicative"),
    seasonal_index(one, form = "additive"),
    seasonal_index(months_of(a = of_ratios(noise[, 1]))),
    seasonal_index(months_of(a = level96 + 20 * noise[, 2]))
  )) {
    expect_identical(said(index), character())
  }
  expect_identical(said(project(one, 3, form = "multiplicative")), character())
  mixed <- months_of(
    a = of_ratios(noise[, 1]), b = 0.001 * of_differences(noise[, 2]),
    c = of_ratios(noise[, 3])
  )
  expect_match(
    said(seasonal_index(mixed)),
    "fit b better than ratios: make its index apart, with `form` as"
  )
  expect_identical(
    seasonal_index(mixed)$index,
    seasonal_index(mixed, form = "multiplicative")$index
  )
  # A shell calls it by its option.
  folder <- withr::local_tempdir()
  utils::write.csv(
    data.frame(month = one$period, kilos = one$value),
    file.path(folder, "kilos.csv"), row.names = FALSE
  )
  shell <- backfill_cli("season", "kilos.csv", dir = folder)
  expect_match(
    gsub("\\s+", " ", paste(shell$err, collapse = " ")),
    "make the index with `--form` as \"additive\""
  )
})

test_that("series without a season have no say in the form of the others'", {
  withr::local_seed(12)
  rising <- function() 5 + seq_len(96) + stats::rnorm(96)
  # Around a straight line that starts near zero ratios leave far more.
  x <- months_of(a = of_ratios(stats::rnorm(96, 0, 0.03)), b = rising(),
                 c = rising(), d = rising())
  index <- seasonal_index(x, form = "auto")
  expect_identical(facts_of(index)$form, "multiplicative")
  expect_identical(
    facts_of(seasonal_index(x[x$inn != "a", ], form = "auto"))$form, "additive"
  )
  expect_no_match(
    backfill:::sentences_of(seasonal_index(x)), "^Differences fit"
  )
})
