# Units that columns of a data frame bring along, and ratios of their columns.

# Lengths of time are numbers of the unit that is declared, or of the one that
# they are held in.
with_held_units <- function(data, measures) {
  for (name in names(plain_measures(measures))) {
    unit <- measures[[name]]$unit
    held <- inherits(data[[name]], "difftime")
    if (held && isTRUE(unit %in% difftime_units)) {
      units(data[[name]]) <- unit
    }
  }
  data
}

held_units <- function(data, measures) {
  for (name in names(plain_measures(measures))) {
    if (inherits(data[[name]], "difftime")) {
      measures[[name]]$unit <- measures[[name]]$unit %||%
        attr(data[[name]], "units")
    }
  }
  measures
}

difftime_units <- c("secs", "mins", "hours", "days", "weeks")

with_ratios <- function(table, measures) {
  for (name in setdiff(names(ratios(measures)), names(table))) {
    table[[name]] <- divided(
      table[[measures[[name]]$of]], table[[measures[[name]]$per]]
    )
  }
  table
}
