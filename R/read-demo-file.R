#' Find the demo data
#'
#' All of it is made up and set in one fictional place, the Tarn Isles, whose
#' harbour office keeps the records.
#'
#' | file | what |
#' |---|---|
#' | `crossings.csv` | boardings per hour on three ferry lines, three years, by the local clock of the zone `"WET"` |
#' | `inns.csv` | guest nights and bed-nights open per month at four inns, four years |
#' | `landings.csv` | lots at the fish quay, with kilos, boxes and price, four years; decimal commas, the day first |
#' | `ice-house.csv` | brine and current meters, read by the week; two header rows, meter over register |
#' | `water-tanks.csv` | litres drawn from each tank so far, a row per village and tank, a column per date |
#' | `ledger.csv` | ice sold (weekly), berths let and nets mended (monthly), rope bought and crew signed (quarterly), with the day of entry, and corrections |
#' | `sea-2029.nc`, `-2030.nc`, `-2031.nc` | temperature of the sea by the day at a depth of 15 metres, on a grid in metres, -99 where missing |
#' | `islands.csv` | residents, berths and beds per island |
#' | `packet.csv`, `spring-fair.ics` | parcels on each sailing of a boat that sails on workdays, eight years, and the dates of a fair that moves |
#' | `radio.csv` | calls from boats, a row for each, by clocks of their own; two years |
#' | `events.csv`, `holidays.ics` | dated notes; public holidays as iCalendar |
#'
#' @param name Name of the file, or of several.
#' @return The path of the file.
#' @section Errors: `backfill_error_argument` for a name that is not among them.
#' @examples
#' demo_file("crossings.csv")
#' @export
demo_file <- function(name) {
  check_given()
  folder <- system.file("extdata", package = "backfill")
  for (one in name) {
    check_one_of(one, list.files(folder), "name")
  }
  file.path(folder, name)
}
