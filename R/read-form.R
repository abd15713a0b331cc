# How files are cut into columns: the arguments that say so, checked.

one_byte <- function(x) rlang::is_string(x) && nchar(x, "bytes") == 1

# What the arguments that say how a file is laid out must be.
form_rules <- list(
  delimiter = list(
    holds = one_byte, expected = "one character of ASCII, such as \";\""
  ),
  quote = list(
    holds = one_byte, expected = "one character of ASCII, or \"\" for none"
  ),
  encoding = list(
    holds = function(x) rlang::is_string(x) && known_encoding(x),
    expected = "one of iconvlist(), such as \"latin1\" or \"UTF-16LE\""
  ),
  sheet = list(
    holds = function(x) rlang::is_string(x) || rlang::is_scalar_integerish(x),
    expected = "the name of a sheet, or its number"
  ),
  range = list(
    holds = function(x) rlang::is_string(x),
    expected = "a range of cells, such as \"B3:F40\""
  ),
  table = list(
    holds = function(x) rlang::is_string(x), expected = "a name"
  ),
  cells = list(
    holds = function(x) {
      identical(x, "mean") || identical(x, "each") ||
        is.numeric(x) && length(x) %in% c(2, 4) && all(is.finite(x)) &&
          (length(x) == 2 || x[[1]] <= x[[2]])
    },
    expected = paste(
      "\"mean\", \"each\", c(lat, lon), or c(south, north, west, east) for a",
      "box"
    )
  )
)

check_form <- function(form) {
  check_whole(form$skip, "skip", 0, 1e6, "the lines above the header")
  check_whole(
    form$header_rows, "header_rows", 0, 2, "the rows that make the header"
  )
  given <- form
  given["cells"] <- list(form$cells %||% NA)
  given["quote"] <- list(
    if (!identical(form$quote, "")) form$quote %||% NA
  )
  for (name in intersect(names(form_rules), names(Filter(length, given)))) {
    rule <- form_rules[[name]]
    if (!rule$holds(given[[name]])) {
      abort_backfill(
        "argument", "`{name}` is {value_in_words(form[[name]])}.",
        i = "It must be {rule$expected}."
      )
    }
  }
  form$skip <- as.integer(form$skip)
  form$header_rows <- as.integer(form$header_rows)
  form
}

# With what a reader of files has to know of the records to come.
form_for <- function(form, asked) {
  c(form, list(
    measures = setdiff(
      names(plain_measures(asked$measures)), counted_names(asked$measures)
    ), when = asked$when,
    series = asked$series, layout = asked$layout, zone = asked$zone,
    missing = asked$rules$missing, most_bytes = Inf
  ))
}

# How a file is read of which no more is known than `known`, arguments of
# read_records() by name; of a text file `most_bytes` at the most.
plain_form <- function(known = list(), most_bytes = Inf) {
  form <- list(
    delimiter = NULL, quote = "\"", encoding = NULL, skip = 0, header_rows = 1,
    sheet = NULL, range = NULL, table = NULL, cells = "mean"
  )
  given <- intersect(names(form), names(known))
  form[given] <- known[given]
  c(
    check_form(form),
    list(
      layout = "rows", zone = "UTC", missing = known$missing,
      most_bytes = most_bytes
    )
  )
}
