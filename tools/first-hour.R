# The first hour with files of one's own: makes them with planted truths, runs
# on each what a newcomer would, and prints what came of it. Called by
# tools/first-hour.sh with the command to call.
command <- commandArgs(trailingOnly = TRUE)[[1]]
folder <- tempfile("first-hour-")
dir.create(folder)
setwd(folder)
set.seed(36)
days <- seq(as.Date("2028-01-01"), as.Date("2031-12-31"), 1)
season <- 1 + 0.4 * sin(2 * pi * as.POSIXlt(days)$yday / 365)
fallen <- format(days, "%Y-%m") == "2031-05"
counts <- function(base, fall = TRUE) {
  x <- stats::rpois(length(days), base * season)
  ifelse(fallen & fall, round(0.6 * x), x)
}
mills <- rbind(
  data.frame(day = days, mill = "Kell", sacks = counts(60)),
  data.frame(day = days, mill = "Brod", sacks = counts(35, FALSE))
)
less <- function(share) {
  mills[-sample(nrow(mills), round(share * nrow(mills))), ]
}
save <- function(x, name) {
  utils::write.csv(x, paste0(name, ".csv"), row.names = FALSE)
}
for (percent in c(2, 5, 10)) {
  save(less(percent / 100), sprintf("missing-%02d", percent))
}
save(
  mills[!(mills$day >= "2030-03-04" & mills$day <= "2030-03-10"), ],
  "week-missing"
)
save(mills[!weekdays(mills$day) %in% c("Saturday", "Sunday"), ], "market-days")
many <- do.call(rbind, lapply(1:30, function(i) {
  data.frame(day = days, stall = sprintf("stall %02d", i), sold = counts(
    20 + i, i == 7
  ))
}))
save(many, "thirty-series")
save(data.frame(
  at = sort(as.POSIXct("2031-01-01", tz = "UTC") + stats::runif(900, 0, 3e7)),
  what = sample(c("leak", "noise", "lamp"), 900, TRUE)
), "event-log")
monthly <- stats::aggregate(
  sacks ~ format(day, "%Y-%m"), mills[mills$mill == "Kell", ], sum
)
save(data.frame(
  year = 2028:2031, matrix(monthly$sacks, 4, byrow = TRUE, dimnames = list(
    NULL, month.abb
  ))
), "months-by-years")

run <- function(...) {
  out <- tempfile()
  err <- tempfile()
  seconds <- system.time(
    status <- system2(command, c(...), stdout = out, stderr = err)
  )[["elapsed"]]
  list(
    status = status, seconds = seconds, out = readLines(out, warn = FALSE),
    err = readLines(err, warn = FALSE)
  )
}
flagged_of <- function(file, ...) {
  flags <- run("flags", file, "--flagged", "--format", "csv", "--quiet", ...)
  if (flags$status == 0 && length(flags$out) > 1) {
    utils::read.csv(text = flags$out)$period
  }
}
rows <- lapply(sub(".csv$", "", list.files(pattern = "csv$")), function(name) {
  file <- paste0(name, ".csv")
  periods <- run("periods", file, "--format", "csv", "--quiet")
  table <- if (periods$status == 0) {
    utils::read.csv(text = periods$out)
  }
  flagged <- flagged_of(file)
  # What the sentence of the flags advises where records are missing.
  scaled <- flagged_of(file, "--thin", "scale", "--enough", "0.75")
  season <- run("season", file)
  report <- run("report", file)
  data.frame(
    file = name,
    complete = if (is.null(table)) "-" else sprintf(
      "%.0f%%", 100 * mean(table$standing == "complete")
    ),
    flagged = length(flagged),
    fall_found = any(startsWith(as.character(flagged), "2031-05")),
    when_scaled = any(startsWith(as.character(scaled), "2031-05")),
    season = season$status == 0, page = report$status == 0,
    lines_inspect = length(run("inspect", file)$out),
    lines_season = length(c(season$out, season$err)),
    seconds_season = round(season$seconds, 1),
    seconds_report = round(report$seconds, 1)
  )
})
print(do.call(rbind, rows), row.names = FALSE)
help <- vapply(
  c("periods", "growth", "season", "flags", "links"),
  function(name) length(run(name, "--help")$out), 0L
)
cat("Lines of help:", paste(names(help), help, collapse = ", "), "\n")
