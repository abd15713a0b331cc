# Values of a study as the arguments of R's verbs: plain values, and the parts
# of calls where an argument is something made.

# A value for an argument, or NULL after a fault: `known` are the names of the
# results that it may be.
study_value <- function(value, name, argument, path, known, allowed) {
  type <- argument$type
  made <- study_forms()[[type$form]]
  if (is.null(made)) {
    return(as_code(study_plain(value, name, type, path, allowed)))
  }
  made(value, name, type, path, known, allowed)
}

study_plain <- function(value, name, type, path, allowed) {
  if (is_text_value(value)) {
    return(parsed_text(value, name, type, path, allowed$faults))
  }
  plain <- plain_value(value)
  if (is.null(plain)) {
    allowed$faults$add(
      path, sprintf("\"%s\" is nested too deep for a value.", name)
    )
  }
  # A word may look like a number.
  if (type$form == "text" && is.numeric(plain) && is.null(names(plain))) {
    return(plain_format(plain))
  }
  plain
}

# A value as it is written in R: several are a call of c().
as_code <- function(x) {
  if (is.list(x)) {
    return(rlang::call2("list", !!!lapply(x, as_code)))
  }
  as_plain_code(x)
}

as_plain_code <- function(x) {
  if (is.integer(x)) {
    x <- stats::setNames(as.numeric(x), names(x))
  }
  if (all(rlang::names2(x) == "")) {
    names(x) <- NULL
  }
  single <- length(x) == 1 && is.null(names(x))
  if (is.null(x) || single || !is.atomic(x)) {
    return(x)
  }
  if (length(x) == 0) {
    return(rlang::call2(typeof(x)))
  }
  rlang::call2("c", !!!as.list(x))
}

# How values are made that are not plain, by the form of their type.
study_forms <- function() {
  list(
    measures = study_measures, formulas = study_formulas,
    renamed = study_renamed, made_of_file = study_made_of_file,
    path = study_path, calendar = study_every, pair = study_name,
    earlier = study_earlier
  )
}

study_earlier <- function(value, name, type, path, known, allowed) {
  if (!rlang::is_string(value) || !value %in% known) {
    allowed$faults$add(
      path, sprintf("\"%s\" must be the name of an earlier result.", name)
    )
    return(NULL)
  }
  as.symbol(value)
}

# One of two names, which an option has together and R and a study have apart.
study_name <- function(value, name, type, path, known, allowed) {
  if (!rlang::is_string(value)) {
    allowed$faults$add(path, sprintf("\"%s\" must be a name.", name))
  }
  value
}

is_text_value <- function(value) {
  is.character(value) && is.null(names(value)) && length(value) > 0
}

# Text is read as the command line reads it, which most types have of one text
# alone.
parsed_text <- function(value, name, type, path, faults) {
  fault <- function(said) {
    faults$add(path, gsub("\\s+", " ", said))
    NULL
  }
  tryCatch(
    type$parse(value, name),
    backfill_error = function(cnd) fault(rlang::cnd_message(cnd)),
    error = function(cnd) {
      if (length(value) == 1 && !is.na(value)) {
        stop(cnd)
      }
      fault(sprintf("\"%s\" must be one value.", name))
    }
  )
}

# A list of scalars as a vector, named where it is a map, and a map of such
# lists as a list of vectors; NULL where it has other parts.
plain_value <- function(value) {
  if (is.null(value) || (is.atomic(value) && length(value) > 0)) {
    return(value)
  }
  if (length(value) == 0) {
    return(character())
  }
  scalar <- vapply(value, is_scalar, NA)
  if (all(scalar)) {
    return(unlist(value))
  }
  flat <- vapply(value, function(one) all(vapply(one, is_scalar, NA)), NA)
  if (rlang::is_named(value) && all(flat)) lapply(value, unlist)
}

is_scalar <- function(x) is.atomic(x) && length(x) == 1

# A file that is there and may be read, as the study names it; NULL after a
# fault.
study_file <- function(value, path, allowed) {
  fault <- fault_of_file(value, allowed)
  if (!is.null(fault)) {
    allowed$faults$add(path, fault)
    return(NULL)
  }
  if (!is_address(value)) {
    allowed$seen$files <- c(allowed$seen$files, value)
  }
  value
}

is_address <- function(path) grepl("^[A-Za-z][A-Za-z0-9+.-]+://", path)

is_absolute <- function(path) grepl("^(/|~|[A-Za-z]:)", path)

fault_of_file <- function(value, allowed) {
  if (!rlang::is_string(value) || !nzchar(value)) {
    return("A file must be a path, in text.")
  }
  if (is_address(value)) {
    return(fault_of_address(value, allowed))
  }
  full <- if (is_absolute(value)) value else file.path(allowed$folder, value)
  if (!file.exists(full)) {
    return(sprintf("There is no file %s.", value))
  }
  if (file_kind_cpp(full) == "other") {
    return(glue("{value} is a pipe or a device, which a study does not read."))
  }
  inside <- startsWith(
    normalizePath(full), paste0(sub("/$", "", allowed$folder), "/")
  )
  if (!inside && !allowed$outside) {
    glue("{value} lies outside the folder of the study, which {allowed_by}.")
  }
}

fault_of_address <- function(value, allowed) {
  if (has_secret(value)) {
    "The address has a password in it, which a study may not."
  } else if (!allowed$outside) {
    sprintf(
      "%s is an address; a study opens none by itself, which %s.", value,
      allowed_by
    )
  }
}

allowed_by <- "`--allow-outside`, or read_study(outside = TRUE), allows"

# Types whose values are made, not plain ------------------------------------

# New names by old ones, which are arguments of their own.
study_renamed <- function(value, name, type, path, known, allowed) {
  if (is_text_value(value)) {
    value <- parsed_text(value, name, type, path, allowed$faults)
  }
  if (is.null(names(value))) {
    allowed$faults$add(path, "Names must be a map, such as {new: old}.")
    return(NULL)
  }
  made <- lapply(as.list(value), unlist)
  if (name == "...") {
    made
  } else if (all(lengths(made) == 1)) {
    as_plain_code(unlist(made))
  } else {
    as_code(made)
  }
}

# What a file holds, or what an earlier step made.
study_made_of_file <- function(value, name, type, path, known, allowed) {
  if (rlang::is_string(value) && value %in% known) {
    return(as.symbol(value))
  }
  file <- study_file(value, path, allowed)
  if (!is.null(file)) rlang::call2(type$reader, file)
}

study_path <- function(value, name, type, path, known, allowed) {
  study_file(value, path, allowed)
}

# The length of periods, or a calendar of its own.
study_every <- function(value, name, type, path, known, allowed) {
  if (rlang::is_string(value)) {
    return(value)
  }
  if (!is.list(value) || is.null(names(value))) {
    allowed$faults$add(path, sprintf(
      "\"%s\" must be a length of period, or a map such as {every: month}.",
      name
    ))
    return(NULL)
  }
  calendar_call(value, path, allowed)
}
