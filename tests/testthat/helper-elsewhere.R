# Records in memory and the same ones in a database, to be rolled up alike.

# A random table of records of one kind, from helper-oracle.R, with how it is to
# be rolled up. Series have names that need quoting.
elsewhere_case <- function(seed) {
  table <- oracle_table(seed)
  data <- table$data
  names <- c("O'Brien \"x\"", "Ægir; --", "a@b %s")
  data$series <- names[match(data$series, letters)]
  kind <- pick(c("flow", "level", "counter", "return", "log return"))
  # Of records at one time there is no first, and no rise between them.
  alone <- kind == "counter" || seed %% 3 == 0
  if (alone) data <- data[!duplicated(data[c("when", "series")]), ]
  if (kind == "counter") {
    order <- order(data$series, data$when)
    data$value[order] <- cumsum(ifelse(
      is.na(data$value[order]), 0, abs(data$value[order])
    ))
    data$value[sample(nrow(data), 2)] <- c(NA, 0)
  }
  if (grepl("return", kind)) data$value <- data$value / 1e5
  dates <- inherits(data$when, "Date")
  holidays <- min(as.Date(data$when)) + sample(40, 3)
  every <- pick(c(
    list(
      table$every, "month", "quarter",
      calendar("year", year_start = sample(12, 1)), calendar("10 days"),
      calendar("2 weeks", week_start = sample(7, 1)), "third"
    ),
    if (table$way != "months") {
      list(
        calendar("working day", holidays = holidays),
        calendar("month", workdays = 1:5, holidays = holidays)
      )
    },
    if (!dates) list("hour", "4 hours", "day")
  ))
  uses <- list(
    flow = list(NULL, c("sum", "highest", "sd"), "90%", "count", "slots"),
    level = list(NULL, c("lowest", "highest", "sd"), "median", "25%"),
    counter = list(NULL, "count", "highest"), return = list(NULL, "mean"),
    "log return" = list(NULL, "sd")
  )[[kind]]
  if (alone) uses$level <- c(uses$level, list(c("first", "last")))
  list(
    data = data, zone = table$zone, kind = kind, every = every,
    use = pick(uses), by = if (kind != "counter") pick(list(NULL, character())),
    absent = if (kind == "flow") pick(list(NULL, "zero")),
    duplicates = if (alone) "error" else "keep",
    keep = pick(list(list(), list(weekdays = 2:6), list(
      from = format(stats::quantile(as.Date(data$when), 0.2, type = 1)),
      workdays = TRUE, holidays = holidays
    )))
  )
}

# What a roll-up gives, or the class of the error that it ends with.
rolled <- function(x, case) {
  tryCatch(
    suppressWarnings({
      x <- do.call(keep_dates, c(list(x), case$keep))
      use <- unlist(case$use)
      if (length(use) > 1) use <- list(value = use)
      out <- roll_up(
        x, case$every, by = case$by, use = use, absent = case$absent
      )
      as.data.frame(out)
    }),
    backfill_error = function(cnd) conditionMessage(cnd)
  )
}

# Counts, standings and coverage alike, values to the last digits.
expect_alike <- function(there, here, label) {
  if (!is.data.frame(here) || !is.data.frame(there)) {
    return(expect_identical(there, here, label = label))
  }
  exact <- setdiff(names(here), "value")
  expect_equal(
    as.list(there[exact]), as.list(here[exact]), tolerance = 1e-15,
    ignore_attr = TRUE, label = label
  )
  expect_identical(is.na(there$value), is.na(here$value), label = label)
  size <- pmax(abs(here$value), 1e-3 * max(abs(here$value), 0, na.rm = TRUE))
  off <- max(0, abs(there$value - here$value) / size, na.rm = TRUE)
  expect_lt(off, 1e-12, label = label)
}

# The measure of a case, in memory and at the connection, where it is put.
case_here <- function(case) {
  as_records(
    case$data, when = "when", series = "series", zone = case$zone,
    measures = stats::setNames(case$kind, "value"),
    duplicates = case$duplicates
  )
}
case_there <- function(case, at, put) {
  put(case)
  records_at(
    at, "cases", when = "when", series = "series", zone = case$zone,
    measures = stats::setNames(case$kind, "value"),
    date_unit = attr(put, "unit")(case), duplicates = case$duplicates
  )
}
