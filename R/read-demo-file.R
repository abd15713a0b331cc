#' Find the demo data
#'
#' All of it is made up and set in one fictional place, the Tarn Isles, whose harbour office keeps the records.
#'
#' | file | what |
#' |---|---|
#' | `sailings.csv` | boardings per hour at the two gates of a harbour, three years, local time of the zone `"WET"` |
#' | `guest-nights.csv` | guest nights per month on four islands, four years |
#'
#' @param name Name of the file.
#' @return The path of the file.
#' @section Errors: `backfill_error_argument` for a name that is not among them.
#' @examples
#' demo_file("sailings.csv")
#' @export
demo_file <- function(name) {
  folder <- system.file("extdata", package = "backfill")
  check_one_of(name, list.files(folder, pattern = "[.]csv$"), "name")
  file.path(folder, name)
}
