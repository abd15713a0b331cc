# Measures and formulas of a study.

# Measures as a map from names to kinds, or to maps of its parts.
study_measures <- function(value, name, type, path, known, allowed) {
  if (is_text_value(value)) {
    return(measures_call(
      parsed_text(value, name, type, path, allowed$faults)
    ))
  }
  if (!is.list(value) && !is.character(value) || is.null(names(value))) {
    allowed$faults$add(path, sprintf(
      "\"%s\" must be a map from names to kinds, such as {kilos: flow}.", name
    ))
    return(NULL)
  }
  measures <- lapply(names(value), function(one) {
    study_measure(value[[one]], one, c(path, one), allowed)
  })
  measures_call(stats::setNames(measures, names(value)))
}

study_measure <- function(value, name, path, allowed) {
  if (rlang::is_string(value)) {
    text <- paste(name, value, sep = ":")
    return(parsed_text(text, name, type_measures(), path, allowed$faults)[[1]])
  }
  if (!is.list(value) || is.null(value$kind)) {
    allowed$faults$add(
      path, "A measure must be a kind, such as flow, or a map with `kind`."
    )
    return(NULL)
  }
  check_keys(value, measure_parts, path, allowed$faults)
  tryCatch(
    do.call(measure, value[intersect(measure_parts, names(value))]),
    backfill_error = function(cnd) {
      allowed$faults$add(path, gsub("\\s+", " ", rlang::cnd_message(cnd)))
      NULL
    }
  )
}

measures_call <- function(measures) {
  parts <- lapply(measures, function(one) {
    if (is.null(one)) {
      return(NULL)
    }
    plain <- stated_parts(one)
    if (length(plain) == 1) plain$kind else rlang::call2("measure", !!!plain)
  })
  rlang::call2("list", !!!parts)
}

# Formulas of add_measures(), read and never run.
study_formulas <- function(value, name, type, path, known, allowed) {
  formulas <- lapply(as.list(value), function(one) {
    tryCatch(
      rlang::parse_expr(as.character(one)), error = function(cnd) NULL
    )
  })
  odd <- names(formulas)[!vapply(formulas, is_arithmetic, NA)]
  if (is.null(names(value)) || length(odd) > 0) {
    allowed$faults$add(path, paste(
      "A formula must be arithmetic over measures, such as",
      "total: market + tide."
    ))
    return(NULL)
  }
  formulas
}

is_arithmetic <- function(formula) {
  if (is.symbol(formula) || (is.numeric(formula) && length(formula) == 1)) {
    return(TRUE)
  }
  is.call(formula) && is.symbol(formula[[1]]) &&
    as.character(formula[[1]]) %in% operators &&
    all(vapply(as.list(formula)[-1], is_arithmetic, NA))
}
