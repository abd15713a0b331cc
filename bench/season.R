# How long seasonal indices take over many series, beside a loop over what base
# R has for the work; and what belongs to them. Times are the least of runs in
# turn, in one process.
suppressPackageStartupMessages(library(backfill))
source(file.path("bench", "measure.R"))

count <- 20000
months <- 120
set.seed(5)
when <- seq(as.Date("2022-01-01"), by = "month", length.out = months)
season <- c(0.3, 0.4, 0.6, 0.8, 1.1, 1.4, 1.9, 2, 1.3, 0.9, 0.6, 0.7)
value <- 100 * rep(season, count * months / 12) * exp(rnorm(
  count * months, sd = 0.05
))
monthly <- roll_up(
  as_records(tibble::new_tibble(list(
    when = rep(when, count), gate = rep(
      sprintf("gate-%05d", seq_len(count)), each = months
    ), value = value
  ), nrow = count *
    months), "when", c(value = "flow"), series = "gate", duplicates = "keep"),
  "month"
)

index <- least(seasonal_index(monthly))
sheet <- least(summary(seasonal_index(monthly), type = "worksheet"))
bare <- least(cumsum(value))
# A tenth of the series, as the loop takes long.
series <- split(
  value[seq_len(count * months / 10)], rep(seq_len(count / 10), each = months)
)
loop <- 10 * least(
  for (one in series) stats::decompose(
    stats::ts(one, frequency = 12), "multiplicative"
  ),
  1
)
made <- seasonal_index(monthly)
adjust <- least(deseasonalise(monthly, made))
adjusted <- deseasonalise(monthly, made)
trend <- least(trend_line(adjusted))
few <- monthly[monthly$gate <= "gate-02000", ]
projection <- least(project(few, 12), 1)
hours <- as_records(
  tibble::new_tibble(list(
    when = as.POSIXct("2028-01-01", tz = "UTC") + 3600 * rep(0:26279, 40),
    gate = rep(1:40, each = 26280),
    value = runif(40 * 26280)
  ), nrow = 40L * 26280L),
  "when", c(value = "flow"), series = "gate", duplicates = "keep", zone = "WET"
)
profile <- least(cycle_profile(hours, "hour", split = "weekend"))
grid <- least(cycle_grid(hours, "date", "hour"), 1)

write_result("season", c(
  sprintf(
    "%s series of %d months; seconds, the least of 3 runs in turn.",
    format(count, big.mark = ","), months
  ), "",
  sprintf(
    "seasonal_index()            %6.3f   %.0f times cumsum() of the values",
    index, index / bare
  ),
  sprintf(
    paste(
      "  and its worksheet         %6.3f   a loop over stats::decompose()",
      "takes %.0f times as long (%.1f s)"
    ),
    sheet, loop / sheet, loop
  ),
  sprintf("deseasonalise()             %6.3f", adjust),
  sprintf("trend_line()                %6.3f", trend),
  sprintf(
    "project() of 2,000 series   %6.3f   with 96 earlier ends of each",
    projection
  ), "",
  "1 million hourly records of 40 series", "",
  sprintf("cycle_profile(), hours      %6.3f", profile),
  sprintf("cycle_grid(), dates, hours  %6.3f", grid)
))
