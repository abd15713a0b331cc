# Studies as text: YAML 1.2 read without running anything, and the line that
# each part of it stands on.

# What a file holds, or a condition of class "backfill_error_study".
load_yaml <- function(text, shown) {
  need_package("yaml", "to read a study")
  check_yaml_form(text, shown)
  tryCatch(
    yaml::yaml.load(
      paste(text, collapse = "\n"), eval.expr = FALSE, handlers = yaml_1_2
    ),
    error = function(cnd) stop_yaml(conditionMessage(cnd), shown)
  )
}

# Words and figures that only YAML 1.1 takes for something else than text.
yaml_1_2 <- list(
  "bool#yes" = function(x) if (x %in% c("true", "True", "TRUE")) TRUE else x,
  "bool#no" = function(x) if (x %in% c("false", "False", "FALSE")) FALSE else x,
  "int#base60" = function(x) x, "float#base60" = function(x) x,
  "int#oct" = function(x) as.numeric(x)
)

# A study is written by hand; what is far longer, or repeats itself by
# references, is not one.
most_bytes_of_study <- 1e6

check_study_size <- function(bytes, shown) {
  if (bytes > most_bytes_of_study) {
    abort_backfill(
      "study", "{shown} is longer than 1 MB, too long for a study."
    )
  }
}

check_yaml_form <- function(text, shown) {
  form <- yaml_form_cpp(paste(text, collapse = "\n"))
  if (form[["marked"]] > 0) {
    abort_backfill(
      "study",
      "{shown}, line {form[['marked']]}: tags (!), anchors (&) and references",
      "(*) are not read.",
      ">" = "Write the value itself, in quotation marks if it is text."
    )
  }
  stop_form <- function(what) {
    abort_backfill("study", "{shown} {what}.")
  }
  if (form[["depth"]] > 50) {
    stop_form("is nested more than 50 levels deep")
  }
  # The parser takes a time that grows faster than their number.
  if (form[["parts"]] > 5000 || length(text) > 50000) {
    stop_form("has more than 5,000 entries, too many for a study")
  }
}

stop_yaml <- function(message, shown) {
  line <- regmatches(message, regexec("line ([0-9]+), column", message))[[1]]
  where <- if (length(line) > 0) sprintf(", line %s", line[[2]]) else ""
  what <- if (grepl("Duplicate map key", message)) {
    sub(
      ".*Duplicate map key: '(.*)'.*", "the key \"\\1\" is given twice", message
    )
  } else {
    "it is not YAML: a bracket, a colon or an indent is out of place"
  }
  abort_backfill("study", "{shown}{where}: {what}.")
}

# The line of a path of keys and places, such as list("steps", 2, "over"), in a
# study that is written in blocks; of parts written in one line it is that line,
# and of what is not found that of the part that holds it.
line_of <- function(text, path) {
  from <- 1L
  to <- length(text)
  line <- NA_integer_
  for (part in path) {
    found <- if (is.character(part)) {
      line_of_key(text, part, from, to)
    } else {
      line_of_item(text, part, from, to)
    }
    if (is.na(found)) {
      break
    }
    line <- found
    from <- found
    to <- end_of_block(text, found, to, is.numeric(part))
    # The items of a list, and the keys of a map, come below their own key.
    if (is.character(part)) from <- min(found + 1L, to)
  }
  line
}

indent_of <- function(text) nchar(sub("\\S.*", "", text))

is_blank_line <- function(text) grepl("^\\s*(#.*)?$", text)

line_of_key <- function(text, key, from, to) {
  lines <- seq(from, to)
  quoted_key <- sprintf(
    "^\\s*(-\\s+)*[\"']?\\Q%s\\E[\"']?\\s*:", gsub("\\\\E", "", key)
  )
  inside <- sprintf("[{,]\\s*[\"']?\\Q%s\\E[\"']?\\s*:", gsub("\\\\E", "", key))
  block <- lines[grepl(quoted_key, text[lines], perl = TRUE)]
  flow <- lines[grepl(inside, text[lines], perl = TRUE)]
  if (length(block) > 0) {
    block[[which.min(indent_of(gsub("-", " ", text[block])))]]
  } else if (length(flow) > 0) {
    flow[[1]]
  } else {
    NA_integer_
  }
}

line_of_item <- function(text, place, from, to) {
  lines <- seq(from, to)
  items <- lines[grepl("^\\s*-(\\s|$)", text[lines])]
  if (length(items) == 0) {
    return(NA_integer_)
  }
  items <- items[indent_of(text[items]) == min(indent_of(text[items]))]
  if (place > length(items)) NA_integer_ else items[[place]]
}

# The last line of the block that starts with a line.
end_of_block <- function(text, line, to, item) {
  if (line >= to) {
    return(line)
  }
  after <- seq(line + 1L, to)
  own <- indent_of(text[[line]])
  dashed <- grepl("^\\s*-(\\s|$)", text[after])
  # The items of a key may stand as far left as the key.
  deeper <- indent_of(text[after]) > own | is_blank_line(text[after]) |
    (!item & dashed & indent_of(text[after]) == own)
  ends <- which(!deeper)
  if (length(ends) == 0) to else after[[ends[[1]]]] - 1L
}
