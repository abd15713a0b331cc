# Sentences on the way in which the dates were read; none for ISO 8601, which
# can be meant in one way only.
order_note <- function(parsed, order, rules) {
  decides <- parsed$decides[[order]]
  fiscal <- parsed$first_fiscal > 0 || names(date_orders)[[order]] == "fiscal"
  c(
    if (decides > 0 || parsed$differs[[order]] > 0) {
      sprintf("Dates are read as %s%s.", date_orders[[order]],
              if (!is.null(rules$date_order)) ", as declared" else
                sprintf(
                  ": %s no other order",
                  count_of(decides, "row fits", "rows fit")
                ))
    },
    if (parsed$two_digits[[order]]) {
      sprintf(
        "Years of two digits are those from %d to %d.", rules$pivot_year,
        rules$pivot_year + 99L
      )
    },
    if (fiscal && !is.null(rules$year_start)) {
      sprintf("Fiscal years start in %s%s.", month.name[[rules$year_start]],
              if (rules$year_start > 1) {
                " and are named by the year in which they end"
              } else {
                ""
              })
    }
  )
}
