# The facts of a table as plain lists for JSON and back, so that a table which
# was written to a file can be read as what it was. Only data goes through:
# nothing that is read can become a function or a call.

kept_types <- c("logical", "integer", "double", "character", "list")

kept_attributes <- c("names", "class", "levels", "tzone", "units")

kept_classes <- paste0(
  "^(Date|POSIXct|POSIXt|factor|ordered|difftime|data[.]frame|tbl_df|tbl|",
  "backfill_[a-z_]+)$"
)

# NULL is null, and words without attributes are an array of strings; all else
# tells its type, its values and its attributes. Numbers have the digits that
# read back the same.
as_plain <- function(x) {
  if (is.null(x)) {
    return(NULL)
  }
  type <- typeof(x)
  if (!type %in% kept_types) {
    stop(sprintf("A file cannot keep what is of the type %s.", type))
  }
  if (is_words(x)) {
    return(I(enc2utf8(x)))
  }
  marks <- attributes(x)[kept_attributes]
  marks <- lapply(Filter(Negate(is.null), marks), I)
  c(
    list(type = type), marks,
    if (is.data.frame(x)) list(rows = nrow(x)),
    if (is.array(x)) list(dim = I(dim(x))),
    list(values = plain_values(unclass(x), type))
  )
}

is_words <- function(x) {
  is.character(x) && length(x) > 0 && is.null(attributes(x)) && !anyNA(x)
}

plain_values <- function(x, type) {
  attributes(x) <- NULL
  I(switch(
    type, list = lapply(x, as_plain),
    double = ifelse(is.nan(x), "NaN", shortest_text_cpp(x)),
    character = enc2utf8(x), x
  ))
}

# What as_plain() made of it, read from JSON without simplification.
from_plain <- function(x) {
  if (is.null(x)) {
    return(NULL)
  }
  if (is.null(names(x))) {
    return(vapply(x, as.character, ""))
  }
  check_plain(x)
  values <- if (x$type == "list") {
    lapply(x$values, from_plain)
  } else {
    plain_vector(x$values, x$type)
  }
  for (mark in intersect(kept_attributes, names(x))) {
    attr(values, mark) <- plain_vector(x[[mark]], "character")
  }
  if (!is.null(x$rows)) {
    attr(values, "row.names") <- .set_row_names(x$rows)
  }
  if (!is.null(x$dim)) {
    dim(values) <- plain_vector(x$dim, "integer")
  }
  values
}

check_plain <- function(x) {
  classes <- plain_vector(x[["class"]], "character")
  if (!isTRUE(x$type %in% kept_types) || !all(grepl(kept_classes, classes))) {
    stop("it has a type or a class that no table has")
  }
}

plain_vector <- function(values, type) {
  missing <- vapply(values, is.null, NA)
  values[missing] <- NA
  out <- vapply(values, as.character, "")
  storage.mode(out) <- type
  out
}
