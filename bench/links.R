# All pairs of 500 series by 4,000 periods with 5% missing, beside base R, and
# 200 monthly series carried to 10,000 days.
suppressPackageStartupMessages(library(backfill))
source("bench/measure.R")
set.seed(1)
rows <- 4000
columns <- 500
values <- matrix(stats::rnorm(rows * columns), rows)
values[sample(length(values), length(values) %/% 20)] <- NA
memory <- matrix(0, 1, columns)
ours <- least(backfill:::correlate_cpp(values, memory, 0L, 10))
base <- least(stats::cor(values, use = "pairwise.complete.obs"), 1)
found <- backfill:::correlate_cpp(values, memory, 0L, 10)
known <- stats::cor(values, use = "pairwise.complete.obs")
off <- max(abs(found$coefficient - known[cbind(found$first, found$second)]))
month <- seq(as.Date("2000-01-01"), by = "month", length.out = 330)
monthly <- roll_up(as_records(
  data.frame(
    when = rep(month, 200), line = rep(sprintf("line-%03d", 1:200), each = 330),
    value = stats::rnorm(330 * 200)
  ),
  "when", c(value = "level"), "line"
), "month")
days <- c(2500, 5000, 10000)
aligned <- vapply(days, function(count) {
  on <- as.Date("2000-02-01") + seq_len(count) - 1
  least(align_as_of(monthly, on, delay = 10))
}, 0)
rows <- 2500
candidates <- matrix(stats::rnorm(rows * 3000), rows)
daily <- roll_up(as_records(
  data.frame(
    when = rep(as.Date("2020-01-01") + seq_len(rows) - 1, 3000),
    line = rep(sprintf("line-%04d", 1:3000), each = rows),
    value = as.vector(candidates)
  ),
  "when", c(value = "level"), "line"
), "day")
ranked <- least(rank_links(daily, "line-0001", ahead = 1))
asked <- data.frame(ahead = 1, horizon = 1)
kernel <- least(backfill:::links_at(candidates, 1L, asked, 10))
write_result("links", c(
  "All pairs of 500 series by 4,000 periods, 5% missing", "",
  sprintf("backfill                    %6.2f", ours),
  sprintf(
    "stats::cor()                %6.2f   %.1f times; largest difference %.0e",
    base, base / ours, off
  ),
  "", "3,000 candidates by 2,500 days, at one lead", "",
  sprintf("rank_links()                %6.2f", ranked),
  sprintf("its kernel alone            %6.2f", kernel),
  "", "200 monthly series as they were known", "",
  sprintf(
    "on %6s days              %6.2f", format(days, big.mark = ",", trim = TRUE),
    aligned
  )
))
