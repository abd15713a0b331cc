# Public holidays of the Tarn Isles as an iCalendar file: fixed ones that come
# back each year, a movable one listed year by year, one of two days, and an
# event with a time of day, which is not a holiday.

holidays_truth <- list(
  yearly = list(
    "Founding Day" = "02-19", "Harbour Day" = "05-09", "Long Light" = "06-20",
    "Lantern Night" = "11-13"
  ),
  movable = list(
    "Spring Fair" = c("2028-03-23", "2029-04-12", "2030-03-29", "2031-04-18")
  ),
  two_days = list(name = "Winter Feast", first = "12-19", days = 2),
  timed = "Boat blessing"
)

# The days off from 2028 to 2031.
holiday_dates <- function() {
  truth <- holidays_truth
  years <- 2028:2031
  fixed <- c(unlist(truth$yearly), truth$two_days$first, "12-20")
  sort(c(
    as.Date(as.vector(outer(years, fixed, paste, sep = "-"))),
    as.Date(truth$movable[["Spring Fair"]])
  ))
}

write_holidays <- function(file) {
  truth <- holidays_truth
  plain <- function(date) gsub("-", "", date)
  event <- function(name, lines) {
    c(
      "BEGIN:VEVENT",
      paste0("UID:", gsub(" ", "-", tolower(name)), "@tarn.example"), lines,
      paste0("SUMMARY:", name), "END:VEVENT"
    )
  }
  lines <- c(
    "BEGIN:VCALENDAR", "VERSION:2.0",
    "PRODID:-//Tarn Isles harbour office//holidays//EN",
    unlist(lapply(names(truth$yearly), function(name) {
      event(
        name,
        c(
          paste0("DTSTART;VALUE=DATE:2028", plain(truth$yearly[[name]])),
          "RRULE:FREQ=YEARLY"
        )
      )
    })),
    unlist(lapply(truth$movable[["Spring Fair"]], function(date) {
      event(
        paste("Spring Fair", substr(date, 1, 4)),
        paste0("DTSTART;VALUE=DATE:", plain(date))
      )
    })),
    event(
      truth$two_days$name,
      c(
        "DTSTART;VALUE=DATE:20281219", "DTEND;VALUE=DATE:20281221",
        "RRULE:FREQ=YEARLY"
      )
    ),
    # A long line is folded: it goes on behind a line break and a blank.
    event(
      truth$timed,
      c(
        "DTSTART:20290601T100000",
        "DESCRIPTION:The boats of all four islands meet off Ostrel and",
        "  are blessed for the season"
      )
    ),
    "END:VCALENDAR"
  )
  writeBin(charToRaw(paste0(lines, "\r\n", collapse = "")), file)
  c(truth, list(dates = format(holiday_dates())))
}
