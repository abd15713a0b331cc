# Every kind of figure of every kind of table on one page, to be looked at
# before a change of a figure lands: build/sheet/index.html.
suppressPackageStartupMessages(library(backfill))
folder <- "build/sheet"
dir.create(folder, showWarnings = FALSE, recursive = TRUE)
unlink(Sys.glob(file.path(folder, "*.png")))
set.seed(7)

monthly <- function(names, months = 60, measures = "kilos", of = seasonal) {
  month <- seq(as.Date("2027-01-01"), by = "month", length.out = months)
  data <- data.frame(
    month = rep(month, length(names)), quay = rep(names, each = months)
  )
  for (i in seq_along(measures)) {
    data[[measures[[i]]]] <- 30^(i - 1) * unlist(lapply(names, function(name) {
      of(months)
    }))
  }
  kinds <- stats::setNames(rep("flow", length(measures)), measures)
  roll_up(as_records(data, "month", kinds, series = "quay"), "month")
}
seasonal <- function(n) {
  size <- stats::runif(1, 50, 500)
  size * (1 + 0.3 * sin(2 * pi * seq_len(n) / 12) + 0.05 * stats::rnorm(n)) *
    (1 + stats::runif(1, -0.3, 0.5) * seq_len(n) / n)
}
holed <- function(n) {
  out <- replace(seasonal(n), sample(n, 6), NA)
  replace(out, 31, 12 * max(out, na.rm = TRUE))
}
days <- seq(as.Date("2010-01-01"), as.Date("2029-12-30"), by = "day")

tables <- list(
  "the demo's" = roll_up(read_records(
    demo_file("inns.csv"), "month", c(guest_nights = "flow"), series = "inn"
  ), "month"),
  "two measures by three series" = monthly(
    c("North quay", "South quay", "Mole"), measures = c("kilos", "lots")
  ),
  "twenty years of days" = roll_up(as_records(
    data.frame(day = days, tide = 500 + 100 * sin(
      2 * pi * seq_along(days) / 365.25
    ) + stats::rnorm(length(days), sd = 20)), "day", c(tide = "level")
  ), "day"),
  "forty series" = monthly(sprintf("boat %02d", 1:40)),
  "holes, ends cut, an outlier" = monthly(c("Mole", "Stage"), of = holed),
  "long names, Greek, Arabic" = monthly(c(
    strrep("a landing place far out on the western skerries ", 2),
    "\u0391\u03c0\u03bf\u03b2\u03ac\u03b8\u03c1\u03b1",
    "\u0631\u0635\u064a\u0641"
  ))
)
kinds <- list(
  lines = \(m) autoplot(m), years = \(m) autoplot(m, type = "years"),
  bars = \(m) autoplot(m, type = "bars"),
  distribution = \(m) autoplot(m, type = "distribution"),
  growth = \(m) autoplot(add_growth(m, over = "1 year")),
  moving = \(m) autoplot(add_moving(m, window = 3)),
  share = \(m) autoplot(add_share(m)), flags = \(m) autoplot(flag_periods(m)),
  season = \(m) autoplot(seasonal_index(m)),
  projection = \(m) autoplot(project(m, 6)),
  trend = \(m) autoplot(trend_line(m, of = "value")),
  shifts = \(m) autoplot(level_shifts(m)),
  turning = \(m) autoplot(turning_points(m, span = 3)),
  memory = \(m) autoplot(autocorrelation(m)),
  correlations = \(m) autoplot(correlations(m)),
  boxes = \(m) autoplot(series_summary(m)),
  ranks = \(m) autoplot(rank_series(m)), latest = \(m) autoplot(latest(m)),
  gaps = \(m) autoplot(gaps(m))
)

drawn_cell <- function(kind, table) {
  file <- gsub("[^a-z0-9]+", "-", paste0(kind, "-", table))
  file <- paste0(file, ".png")
  said <- tryCatch({
    suppressMessages(suppressWarnings(write_figure(
      kinds[[kind]](tables[[table]]), file.path(folder, file)
    )))
    sprintf("<a href=\"%1$s\"><img src=\"%1$s\" loading=\"lazy\"></a>", file)
  }, backfill_error = function(refused) {
    sprintf("<p>%s</p>", gsub("<", "&lt;", conditionMessage(refused)))
  })
  sprintf("<td>%s</td>", said)
}

rows <- parallel::mclapply(names(kinds), function(kind) {
  cells <- vapply(names(tables), function(table) drawn_cell(kind, table), "")
  sprintf("<tr><th>%s</th>%s</tr>", kind, paste(cells, collapse = ""))
}, mc.cores = parallel::detectCores())
writeLines(c(
  "<!DOCTYPE html><meta charset=\"utf-8\"><title>Figures</title>",
  "<style>img { width: 400px } td, th { vertical-align: top }</style>",
  "<table>", sprintf(
    "<tr><th></th>%s</tr>",
    paste0("<th>", names(tables), "</th>", collapse = "")
  ), unlist(rows), "</table>"
), file.path(folder, "index.html"))
cat(sprintf("Written: %s/index.html\n", folder))
