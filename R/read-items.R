# A log of many items, the names of which stand in one column and their figures
# in another, as a measure of each item.

# list(column, figures, measures): the column of names, that of figures, and the
# kinds of the items by name, or one for all by that of the figures; NULL where
# no items are asked for.
check_items <- function(items, measures, known, line_number) {
  if (is.null(items)) {
    return(NULL)
  }
  items <- unlist(items)
  if (!rlang::is_string(unname(items)) || rlang::names2(items) == "") {
    abort_backfill(
      "argument", "`items` is {value_in_words(unname(items))}.",
      i = "It must name the column of the items' names with that of their",
      "figures, such as c(item = \"value\")."
    )
  }
  given <- c(known = known, line_number = line_number)
  if (length(given) > 0) {
    abort_backfill(
      "argument",
      "`{names(given)[[1]]}` is given, but `items` makes one record of several",
      "rows.",
      ">" = "Leave one of them out; the column of items can be a series."
    )
  }
  list(
    column = one_line(names(items)), figures = one_line(items[[1]]),
    measures = check_measures(measures)
  )
}

# The column of items' names tells no series apart.
series_beside_items <- function(arguments) {
  series <- setdiff(arguments$series, names(arguments$items))
  if (length(series) > 0) series
}

# What a column so called may hold besides names of series.
items_to_decide <- function(series, measures) {
  names <- "^(item|measure|variable|indicator|metric|element|parameter)s?$"
  column <- grep(names, series, ignore.case = TRUE, value = TRUE)
  if (length(column) == 1 && length(measures) == 1) glue(
    "For you to decide: {quoted(column)} is taken for series of one kind. If",
    "it names measures of several kinds, `items` as {column}={measures} makes",
    "a measure of each."
  )
}

# How the rows are read first: the items are series, their figures a measure.
figures_of_items <- function(items) {
  of_all <- items$measures[[items$figures]]
  stats::setNames(list(of_all %||% measure("level")), items$figures)
}

# The records with a measure of each item, a row for each series and time.
items_as_measures <- function(records, items) {
  if (is.null(items)) {
    return(records)
  }
  role <- facts(records)
  data <- plain_tibble(records)
  item <- renamed_series(items$column)
  series <- setdiff(role$series, item)
  names <- as.character(data[[item]])
  measures <- measures_of_items(items, setdiff(names, c(NA, "")))
  plain <- names(plain_measures(measures))
  check_item_names(plain, c(role$when, series))
  used <- which(names %in% plain)
  rows <- vctrs::vec_slice(data[c(role$when, series)], used)
  check_one_each(rows, names[used])
  keys <- vctrs::vec_unique(rows)
  keys <- vctrs::vec_slice(keys, order(vctrs::vec_rank(keys)))
  at <- vctrs::vec_match(rows, keys)
  figures <- lapply(stats::setNames(nm = plain), function(name) {
    own <- names[used] == name
    replace(
      rep(NA_real_, nrow(keys)), at[own], data[[items$figures]][used][own]
    )
  })
  account <- role$account
  account$rows_merged <- account$rows_merged + length(names) - nrow(keys)
  # Rows without a name are no series of their own here.
  account$notes <- c(
    setdiff(account$notes, nameless_note(data, item)),
    items_note(items, names, plain)
  )
  new_records(
    with_ratios(vctrs::vec_cbind(keys, !!!figures), measures), role$when,
    series, measures, role$zone, account, year_start = role$year_start,
    kept = role$kept
  )
}

measures_of_items <- function(items, there) {
  of_all <- items$measures[[items$figures]]
  if (!is.null(of_all)) {
    return(stats::setNames(rep(list(of_all), length(there)), there))
  }
  lacking <- setdiff(names(plain_measures(items$measures)), there)
  if (length(lacking) > 0) {
    near <- word_meant(lacking[[1]], there)
    abort_backfill(
      "column",
      "`measures` names {in_words(quoted(lacking))}, and no row of",
      "{quoted(items$column)} does.",
      i = "{near %||% glue('The items are {in_words(quoted(there))}.')}"
    )
  }
  items$measures
}

check_item_names <- function(items, columns) {
  taken <- intersect(items, columns)
  if (length(taken) > 0) {
    abort_backfill(
      "column",
      "An item is called {quoted(taken[[1]])}, as is a column of the records.",
      ">" = "Leave the item out of `measures`, or rename the column."
    )
  }
}

# Two figures of an item at one time cannot both stand in its row.
check_one_each <- function(rows, names) {
  again <- vctrs::vec_duplicate_detect(
    vctrs::data_frame(row = rows, item = names)
  )
  if (any(again)) {
    abort_backfill(
      "duplicates",
      "{count_of(sum(again), 'row')} share an item, a series and a time.",
      ">" = "Make one record of them: `duplicates` is \"sum\", \"mean\",",
      "\"first\" or \"last\"."
    )
  }
}

items_note <- function(items, names, measures) {
  blank <- names %in% c(NA, "")
  others <- setdiff(names[!blank], measures)
  rows <- sum(names %in% others)
  c(
    glue("The items of {quoted(items$column)} are measures."),
    if (rows > 0) glue(
      "{count_of(rows, 'row of other items is', 'rows of other items are')}",
      "left out: {in_words(quoted(others), 5)}."
    ),
    if (any(blank)) glue(
      "{count_of(sum(blank), 'row names', 'rows name')} no item and",
      "{if (sum(blank) == 1) 'is' else 'are'} left out."
    )
  )
}
