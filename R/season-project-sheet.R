# The worksheet of a projection.

# The worksheet of the index, with the rows to come behind those of each series:
# what is carried on, the index there, and the projection that they make.
sheet_ahead <- function(index, ahead, made, cycle, calendar, of) {
  past <- facts(index)$worksheet
  keys <- ahead[c(facts(index)$series, "measure")]
  position <- cycle$position(period_number(ahead$period, calendar), calendar)
  at <- vctrs::vec_match(
    new_rows(keys, position = as.integer(position)),
    new_rows(
      plain_tibble(index)[names(keys)], position = as.integer(index$position)
    )
  )
  # The latest of each position, as that of an index that moves is its own.
  from_last <- past[order(past$period, decreasing = TRUE), ]
  factor <- from_last$normaliser[vctrs::vec_match(
    new_rows(keys, position = index$position[at]),
    from_last[c(names(keys), "position")]
  )]
  made_of_value <- !is.na(as.vector(made$projection))
  own <- as.vector(made$season)[made_of_value]
  # One that follows the recent figures is not normalised.
  followed <- rep(made$base, each = nrow(made$season))[made_of_value] ==
    "recent"
  factor[followed] <- NA
  future <- new_rows(
    keys, period = ahead$period, position = index$position[at],
    raw_index = raw_index(own, factor, facts(index)$form), normaliser = factor,
    index = own,
    carried = as.vector(made$carried)[made_of_value],
    projected = ahead[[of]], lower = ahead$lower, upper = ahead$upper,
    past_error = as.vector(error_ahead(made))[made_of_value],
    past_errors = as.integer(made$errors)[made_of_value],
    standing = ahead$standing
  )
  sheet <- vctrs::vec_rbind(past, future)
  order <- order_of_lines(sheet[names(keys)], past[names(keys)], sheet$period)
  sheet <- vctrs::vec_slice(sheet, order)
  # The standing stands last, as in the worksheet of the index.
  sheet[c(setdiff(names(sheet), "standing"), "standing")]
}
