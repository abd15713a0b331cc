#' Find the demo data
#'
#' All of it is made up and set in one fictional place, the Tarn Isles, whose
#' harbour office keeps the records.
#'
#' | file | what |
#' |---|---|
#' | `sailings.csv` | boardings per hour at the two gates of a harbour, three years, local time of the zone `"WET"` |
#' | `guest-nights.csv` | guest nights per month on four islands, four years |
#' | `fish-auction.csv` | prices and kilos sold by species on market days, two years; decimal commas, the day first |
#' | `cold-store-meters.csv` | cumulative kWh, a row per store and hall, a column per date |
#' | `harbour-economy.csv` | fuel price (weekly), bookings (monthly), jobs (quarterly), with the day of publication |
#' | `sea-temperature-2029.nc`, `-2030.nc`, `-2031.nc` | sea temperature by the day on a grid, -99 where missing |
#' | `islands.csv` | residents per island |
#' | `events.csv`, `holidays.ics` | dated notes; public holidays as iCalendar |
#'
#' @param name Name of the file, or of several.
#' @return The path of the file.
#' @section Errors: `backfill_error_argument` for a name that is not among them.
#' @examples
#' demo_file("sailings.csv")
#' @export
demo_file <- function(name) {
  folder <- system.file("extdata", package = "backfill")
  for (one in name) {
    check_one_of(one, list.files(folder), "name")
  }
  file.path(folder, name)
}
