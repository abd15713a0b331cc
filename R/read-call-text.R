# The call and the command that read a file, as text.

call_text <- function(file, arguments) {
  first <- if (!is.character(file)) "connection" else
    if (length(file) == 1) code_text(file) else
      c(
        "c(",
        paste0("    ", code_text_each(file), c(rep(",", length(file) - 1), "")),
        "  )"
      )
  call_lines("read_records", first, arguments)
}

# `first` are the lines of what it is called of.
call_lines <- function(verb, first, arguments) {
  lines <- vapply(names(arguments), function(name) {
    value <- arguments[[name]]
    sprintf("%s = %s", name, if (name == "measures") {
      measures_text(value)
    } else {
      code_text(if (is.list(value)) unlist(value) else value)
    })
  }, "")
  first[[1]] <- paste0(verb, "(", first[[1]])
  first[[length(first)]] <- paste0(first[[length(first)]], ",")
  given <- paste0(lines, c(rep(",", length(lines) - 1), ""))
  c(first, paste0("  ", unlist(lapply(side_by_side(given, 76), unfolded))), ")")
}

# A list of measures that is too long for a line, a line each.
unfolded <- function(line) {
  if (nchar(line, type = "width") <= 76 || !grepl("= list\\(", line)) {
    return(line)
  }
  each <- strsplit(
    sub("^.*?= list\\((.*)\\)(,?)$", "\\1", line), "(?<=\\)), ", perl = TRUE
  )[[1]]
  c(
    sub("(= list\\().*$", "\\1", line),
    paste0("  ", each, c(rep(",", length(each) - 1), "")),
    sub("^.*\\)(,?)$", ")\\1", line)
  )
}

# Kinds alone, where nothing but these is said.
measures_text <- function(measures) {
  parts <- lapply(measures, stated_parts)
  if (all(lengths(parts) == 1)) {
    return(code_text(vapply(parts, `[[`, "", "kind")))
  }
  each <- vapply(parts, function(one) {
    if (length(one) == 1) {
      return(code_text_each(one$kind))
    }
    given <- paste(c("", names(one)[-1]), c("", rep("= ", length(one) - 1)))
    sprintf("measure(%s)", paste0(
      trimws(given, "left"), code_text_each(unlist(one)), collapse = ", "
    ))
  }, "")
  sprintf("list(%s)", paste(names_as_code(names(parts)), "=", each,
                            collapse = ", "))
}

names_as_code <- function(names) {
  ifelse(names == make.names(names), names, encodeString(names, quote = "`"))
}

code_text_each <- function(x) {
  if (is.character(x)) {
    encodeString(x, quote = "\"")
  } else {
    plain_format(x)
  }
}

code_text <- function(x) {
  values <- code_text_each(x)
  named <- if (is.null(names(x))) values else
    paste(names_as_code(names(x)), "=", values)
  if (length(x) == 1 && is.null(names(x))) {
    named
  } else {
    sprintf("c(%s)", paste(named, collapse = ", "))
  }
}

shell_text <- function(file, arguments) {
  # A name that starts with a dash would be taken for an option.
  files <- if (is.character(file)) {
    ifelse(grepl("^-.", file), file.path(".", file), file)
  } else {
    "FILE"
  }
  shell_lines(vapply(files, quoted_word, "", USE.NAMES = FALSE), arguments)
}

quoted_word <- function(x) {
  if (grepl("[^[:alnum:]_./:=,-]", x)) shQuote(x) else x
}

# `words` say of what.
shell_lines <- function(words, arguments) {
  options <- side_by_side(option_words(arguments), 74)
  c(paste(c("backfill periods", rep(" ", length(words) - 1)), words, "\\"),
    paste0("  ", options, c(rep(" \\", length(options) - 1), "")))
}

# As many on a line as there is room for.
side_by_side <- function(words, room) {
  lines <- words[1]
  for (word in words[-1]) {
    last <- lines[[length(lines)]]
    if (nchar(last, type = "width") + nchar(word, type = "width") < room) {
      lines[[length(lines)]] <- paste(last, word)
    } else {
      lines <- c(lines, word)
    }
  }
  lines
}

# "flow:boardings", "ratio:guest_nights/residents".
measure_as_option <- function(measure) {
  parts <- stated_parts(measure)
  paste(c(
    parts$kind, if (parts$kind == "ratio") paste0(parts$of, "/", parts$per),
    parts$unit
  ), collapse = ":")
}

# How counts that start anew are counted, said where they are rolled up.
option_of_falls <- function(falls) {
  if (length(falls) > 0) paste(names(falls), falls, sep = ":")
}

# Arguments as a shell has them, with that.
with_falls <- function(arguments, falls) {
  c(arguments, if (length(falls) > 0) list(falls = option_of_falls(falls)))
}

# The options that give arguments, each with its value.
option_words <- function(arguments) {
  unlist(lapply(names(arguments), function(name) {
    value <- arguments[[name]]
    words <- if (name == "measures") paste(
      names(value), vapply(value, measure_as_option, ""), sep = ":"
    ) else
      if (!is.null(names(value))) paste(names(value), value, sep = "=") else
        if (is.logical(value)) {
          if (value) "yes" else "no"
        } else {
          as.character(value)
        }
    if (name == "cells" && is.numeric(value)) {
      side <- split(value, rep(1:2, each = length(value) / 2))
      words <- paste(vapply(side, paste, "", collapse = ":"), collapse = ",")
    }
    option <- c(measures = "measure")[name]
    paste0(
      "--", gsub("_", "-", if (is.na(option)) name else option), " ",
      vapply(words, quoted_word, "")
    )
  }))
}
