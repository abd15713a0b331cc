# How long autocorrelation and flags take, beside what base R has for the first
# and a moving mean for the second. Times are the least of runs in turn, in one
# process.
suppressPackageStartupMessages(library(backfill))
source(file.path("bench", "measure.R"))

set.seed(6)
points <- 1e6
value <- rnorm(points)
lags <- function(value, most) {
  n <- length(value)
  series <- rep(1L, n)
  number <- as.numeric(seq_len(n))
  least(
    backfill:::autocorrelation_cpp(
      series, number, value, as.integer(most), FALSE
    )
  )
}
own <- lags(value, 400)
base <- least(stats::acf(value, 400, plot = FALSE), 1)
long <- lags(value, 10000)
gaps <- lags(replace(value, sample(points, 1000), NA), 400)

count <- 20000
months <- 120
monthly <- roll_up(
  as_records(tibble::new_tibble(list(
    when = rep(
      seq(as.Date("2022-01-01"), by = "month", length.out = months), count
    ),
    gate = rep(sprintf("gate-%05d", seq_len(count)), each = months),
    value = 100 * exp(rnorm(count * months, sd = 0.1))
  ), nrow = count *
    months), "when", c(value = "flow"), series = "gate", duplicates = "keep"),
  "month"
)
moving <- least(add_moving(monthly, 12))
flags <- function(...) least(flag_periods(monthly, ...), 2)
ways <- c(
  "previous period, percent" = flags("previous period", c(percent = 30)),
  "last periods, sd" = flags("last periods", c(sd = 3)),
  "last periods, mad" = flags("last periods", c(mad = 3.5)),
  "same position, sd" = flags("a cycle before", c(sd = 3)),
  "season, sd" = flags("season", c(sd = 3))
)
all <- least(autocorrelation(monthly))

write_result("memory", c(
  "1 million points; seconds, the least of 3 runs in turn.", "",
  sprintf(
    paste(
      "autocorrelation, 400 lags   %6.3f   stats::acf() takes %.1f times as",
      "long (%.2f s)"
    ),
    own, base / own, base
  ),
  sprintf("  with 1,000 gaps           %6.3f", gaps),
  sprintf("autocorrelation, 10,000     %6.3f", long), "",
  sprintf(
    "%s series of %d months, in a table", format(count, big.mark = ","), months
  ), "",
  sprintf("add_moving(), 12 months     %6.3f", moving),
  sprintf(
    "flags: %-25s %6.3f   %.1f times the moving mean", names(ways), ways,
    ways / moving
  ),
  sprintf("autocorrelation(), 24 lags  %6.3f", all)
))
