# A target explained by a tree, and judged on what came later.

walks <- function(rows, columns) {
  apply(matrix(
    stats::rnorm(rows * columns), rows
  ), 2, cumsum)
}

monthly_walks <- function(values) {
  months <- seq(as.Date("2020-01-01"), by = "month", length.out = nrow(values))
  names <- c(letters[seq_len(ncol(values) - 1)], "target")
  data <- data.frame(
    when = rep(months, ncol(values)), line = rep(names, each = nrow(values)),
    value = as.vector(values)
  )
  roll_up(
    as_records(
      data[!is.na(data$value), ], "when", c(value = "level"), "line"
    ),
    "month"
  )
}

# A target that follows the first candidate's change two months later.
led_by_first <- function(rows, columns, share = 0.9) {
  values <- walks(rows, columns)
  change <- c(0, 0, 0, diff(values[, 1]))[seq_len(rows)]
  noise <- stats::rnorm(rows)
  cbind(values, cumsum(share * change + sqrt(1 - share^2) * noise))
}

test_that("rpart alone on the same rows gives the same tree, the gap left out", {
  skip_if_not_installed("rpart")
  withr::local_seed(1)
  values <- led_by_first(90, 4)
  values[sample(length(values), 12)] <- NA
  found <- explain_target(monthly_walks(values), "target", 2, c(1, 3))
  rows <- as.data.frame(summary(found, "rows"))
  change <- values[-(1:2), 5] - values[1:88, 5]
  some <- rowSums(!is.na(cbind(
    rbind(NA, diff(values[, 1:4])), rbind(NA, NA, NA, diff(values[, 1:4], 3))
  ))) > 0
  at <- which(!is.na(change) & some[1:88])
  expect_identical(rows$target, change[at])
  expect_identical(sum(rows$stretch == "later"), as.integer(
    ceiling(0.3 * length(at))
  ))
  # Two months lie between the last that is fitted to and the first later one.
  start <- at[rows$stretch == "later"][[1]]
  expect_identical(rows$stretch == "fit", at < start - 2)
  own <- rpart::rpart(
    target ~ ., rows[rows$stretch == "fit", -(1:2)],
    control = rpart::rpart.control(
      maxdepth = 3, minbucket = 5, minsplit = 10, xval = 0
    )
  )
  predicted <- unname(stats::predict(own, rows))
  for (stretch in c("later", "fit")) {
    expect_identical(
      found$predicted[found$stretch == stretch],
      predicted[rows$stretch == stretch]
    )
  }
  expect_identical(
    summary(found, "splits")$mean, own$frame$yval
  )
  expect_identical(unique(found$stretch), c("later", "fit"))
  expect_equal(sum(summary(found, "importance")$share), 1)
})

test_that("errors, rivals and p are those of their formulas", {
  skip_if_not_installed("rpart")
  withr::local_seed(2)
  found <- explain_target(monthly_walks(led_by_first(80, 3)), "target", 2)
  later <- found[found$stretch == "later", ]
  fit <- found[found$stretch == "fit", ]
  judged <- summary(found)
  expect_equal(unique(found$average), mean(fit$actual))
  errors <- list(
    later$actual - later$predicted, later$actual, later$actual - later$average
  )
  expect_equal(judged$mean_error, vapply(errors, function(e) mean(abs(e)), 0))
  squares <- lapply(errors, function(e) e^2)
  expect_equal(judged$root_mean_square, sqrt(vapply(squares, mean, 0)))
  rival <- which.min(vapply(squares[-1], mean, 0))
  d <- squares[[rival + 1]] - squares[[1]]
  m <- length(d)
  g <- stats::acf(d, 1, "covariance", plot = FALSE)$acf
  statistic <- mean(d) / sqrt((g[[1]] + 2 * g[[2]]) / m) *
    sqrt((m + 1 - 4 + 2 / m) / m)
  expect_equal(
    judged$p[[1]], stats::pt(statistic, m - 1, lower.tail = FALSE)
  )
})

test_that("a planted lead is split by and helps; among noise no tree is praised", {
  skip_if_not_installed("rpart")
  withr::local_seed(3)
  led <- replicate(12, {
    found <- explain_target(monthly_walks(led_by_first(150, 5)), "target", 2)
    c(
      summary(found, "importance")$candidate[[1]] == "a",
      which.min(summary(found)$root_mean_square) == 1
    )
  })
  expect_gte(sum(led[1, ]), 11)
  expect_gte(sum(led[2, ]), 9)
  noise <- replicate(40, {
    summary(explain_target(monthly_walks(walks(60, 6)), "target"))$p[[1]]
  })
  # At the stated rate two of 40 would come up in 1 case of 100.
  expect_lte(sum(noise < 0.05, na.rm = TRUE), 2)
})

test_that("what comes later changes neither the tree nor what it predicted before", {
  skip_if_not_installed("rpart")
  withr::local_seed(4)
  values <- led_by_first(90, 3)
  before <- explain_target(monthly_walks(values), "target", 2)
  start <- min(which(
    unique(monthly_walks(values)$period) %in%
      before$from[before$stretch == "later"]
  ))
  altered <- values
  last <- seq(start + 10, 90)
  altered[last, ] <- altered[last, ] + stats::rnorm(4 * length(last), 0, 50)
  after <- explain_target(monthly_walks(altered), "target", 2)
  rows <- before$stretch == "fit" |
    before$from < as.Date("2020-01-01") + 30.4 * (start + 8)
  expect_gt(sum(rows & before$stretch == "later"), 5)
  expect_identical(after$predicted[rows], before$predicted[rows])
  expect_identical(summary(after, "splits"), summary(before, "splits"))
  expect_false(identical(after$predicted, before$predicted))
})

test_that("a tree that is no better says so, and what cannot be fitted is refused", {
  skip_if_not_installed("rpart")
  withr::local_seed(5)
  x <- monthly_walks(walks(60, 4))
  found <- explain_target(x, "target")
  judged <- summary(found)
  said <- paste(describe(found), collapse = " ")
  worse <- judged$root_mean_square[[1]] >= min(judged$root_mean_square[-1])
  expect_identical(grepl("no better than the plain rival", said), worse)
  still <- monthly_walks(cbind(5, walks(60, 1)))
  expect_match(
    paste(describe(explain_target(still, "target")), collapse = " "),
    "nothing to split by"
  )
  expect_error(
    explain_target(monthly_walks(walks(15, 3)), "target"), "to judge it by",
    class = "backfill_error_input"
  )
  expect_error(explain_target(x, "tarqet"), class = "backfill_error_argument")
  expect_error(
    explain_target(x, "target", ahead = 0), class = "backfill_error_argument"
  )
  grown <- add_growth(monthly_walks(exp(walks(60, 3) / 50)), forward = TRUE)
  expect_error(
    explain_target(grown, "target", of = "growth_ahead_1_month"), "looks ahead",
    class = "backfill_error_column"
  )
})

test_that("of growth the figures themselves are taken, not their changes", {
  skip_if_not_installed("rpart")
  withr::local_seed(6)
  values <- exp(walks(70, 3) / 50)
  grown <- add_growth(monthly_walks(values))
  found <- explain_target(grown, "target", of = "growth_1_month")
  rows <- summary(found, "rows")
  growth <- 100 * (values[-1, ] / values[-70, ] - 1)
  expect_equal(rows$target, growth[-1, 3])
  expect_equal(rows$a, growth[-69, 1])
  expect_match(describe(found)[[1]], "by the figures of", all = FALSE)
})

test_that("a tree comes from the command line, drawn", {
  skip_if_not_installed("rpart")
  folder <- withr::local_tempdir()
  file <- file.path(folder, "walks.csv")
  withr::local_seed(7)
  values <- led_by_first(60, 3)
  utils::write.csv(data.frame(
    when = rep(seq(as.Date("2020-01-01"), by = "month", length.out = 60), 4),
    line = rep(c("a", "b", "c", "target"), each = 60),
    value = as.vector(values)
  ), file, row.names = FALSE)
  asked <- c(
    "links", file, "--when", "when", "--series", "line", "--measure",
    "value:level", "--every", "month"
  )
  found <- explain_target(monthly_walks(values), "target", 2, depth = 2)
  shown <- backfill_cli(
    asked, "--target", "target", "--tree", "--ahead", "2", "--depth", "2",
    "--format", "json", "--figure", file.path(folder, "tree.png")
  )
  expect_identical(shown$status, 0L)
  expect_equal(jsonlite::fromJSON(shown$out)$predicted, found$predicted)
  expect_gt(file.size(file.path(folder, "tree.png")), 1000)
  pair <- backfill_cli(
    asked, "--pair", "a,target", "--figure", file.path(folder, "pair.png")
  )
  expect_identical(pair$status, 0L)
  expect_gt(file.size(file.path(folder, "pair.png")), 1000)
  refused <- list(
    c("--tree"), c("--target", "target", "--depth", "2"),
    c("--target", "target", "--tree", "--second", "a"), c("--pair", "a,b"),
    c("--second", "a")
  )
  for (one in refused) {
    answer <- backfill_cli(asked, one)
    expect_identical(answer$status, 2L, label = paste(one, collapse = " "))
  }
})
