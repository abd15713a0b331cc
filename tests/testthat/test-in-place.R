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
