# Which series each row belongs to: `names` has a row per series in the order of their names (in the C locale, so that
# it is the same everywhere), `index` the number of that row for each record.
series_index <- function(x, series) {
  if (length(series) == 0) {
    return(list(names = vctrs::data_frame(.size = 1L), index = rep(1L, nrow(x))))
  }
  columns <- as.list(x)[series]
  if (length(series) == 1 && is.character(columns[[1]])) {
    distinct <- distinct_texts_cpp(columns[[1]])
    index <- distinct$at
    names <- vctrs::new_data_frame(stats::setNames(list(distinct$text), series))
  } else {
    index <- as.integer(vctrs::vec_group_id(vctrs::new_data_frame(columns)))
    names <- vctrs::vec_slice(vctrs::new_data_frame(columns), !duplicated(index))
  }
  rank <- do.call(order, c(unname(as.list(names)), method = "radix"))
  if (is.unsorted(rank)) {
    renumber_cpp(index, order(rank))
  }
  list(names = vctrs::vec_slice(names, rank), index = index)
}
