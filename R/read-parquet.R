# `wanted` are the columns that are needed, or NULL for all: where the file has
# them, the others are not read.
read_parquet <- function(file, wanted = NULL) {
  need_package("nanoparquet", "to read Parquet")
  found <- read_apart(function(path, wanted) {
    schema <- nanoparquet::read_parquet_schema(path)
    names <- schema$name
    list(
      data = nanoparquet::read_parquet(
        path, col_select = if (length(wanted) > 0 && all(wanted %in% names)) {
          intersect(names, wanted)
        }
      ),
      schema = schema
    )
  }, file, "Parquet", wanted)
  data <- found$data
  schema <- found$schema
  schema <- schema[match(names(data), schema$name), ]
  columns <- Map(as_unsigned, file_columns(data, file), schema$converted_type)
  columns <- Map(as_wall_time, columns, schema$logical_type)
  large <- names(data)[schema$type %in% "INT64" & vapply(data, inexact, NA)]
  new_raw(
    columns, nrow(data), list(names(data)), file$shown, identity,
    notes = inexact_note(large)
  )
}

# Times that are said not to be of UTC are those of a clock, as in text.
as_wall_time <- function(x, type) {
  if (inherits(x, "POSIXct") && isFALSE(type$is_adjusted_to_utc)) {
    attr(x, "wall") <- TRUE
  }
  x
}

# Integers without a sign, whose upper half the reader of Parquet takes for
# negative ones.
as_unsigned <- function(x, type) {
  bits <- c(UINT_32 = 32, UINT_64 = 64)[type]
  if (is.na(bits) || !is.numeric(x)) {
    return(x)
  }
  x <- as.double(x)
  ifelse(!is.na(x) & x < 0, x + 2^bits, x)
}

# Whole numbers above 2^53 have digits that a double does not hold.
inexact <- function(x) {
  # Without a copy; of no numbers either end is -Inf.
  is.double(x) && !is.object(x) && suppressWarnings(
    max(x, na.rm = TRUE) >= 2^53 || -min(x, na.rm = TRUE) >= 2^53
  )
}

inexact_note <- function(columns) {
  if (length(columns) > 0) {
    glue(
      "Of integers from 9,007,199,254,740,992 on in",
      "{in_words(quoted(columns))} the last digits are rounded."
    )
  }
}
