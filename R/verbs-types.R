# The types that arguments of verbs have: what stands for a value in a help page
# (NULL for what is given or not), and how the value is read from text,
# `parse(text, argument)`, where `argument` is the argument that it is for. A
# type that `gives` several arguments has them read to a list by their names.
# The `form` says how a study gives it: "plain", "text" where a figure is text,
# too, and other forms of values that are made. `check(x, argument)` says
# what is wrong with a value of R, see check_given(); without one the verb does.
# `choices` are all values that there are.

new_type <- function(
  value, parse = function(text, argument) text, gives = NULL, form = "plain",
  reader = NULL, check = NULL, choices = NULL
) {
  list(
    value = value, parse = parse, gives = gives, form = form, reader = reader,
    check = check, choices = choices
  )
}

type_text <- function(value) new_type(value, form = "text")

type_choice <- function(choices, value) {
  new_type(
    value, form = "text", choices = choices,
    check = function(x, argument) {
      check_one_of(x, choices, argument)
    }
  )
}

type_flag <- function(check = check_flag) {
  new_type(NULL, form = "flag", check = check)
}

# The path of a file.
type_path <- function() new_type("FILE", form = "path")

# The length of periods, or the calendar that they are of.
type_every <- function() new_type("LENGTH", form = "calendar")

# Such as "total = market + tide".
type_formulas <- function() new_type("NAME=FORMULA", form = "formulas")

# Such as "tide:flow:boardings".
type_measures <- function() {
  new_type(
    "NAME:KIND[:UNIT]", function(text, argument) named_measures(text),
    form = "measures"
  )
}

# A number where the text is one; what is not a number is left to the verb,
# which says what it expects.
type_number <- function(value = "NUMBER") {
  new_type(
    value, function(text, argument) number_or_text(text)
  )
}

type_length <- function() type_number("LENGTH")

# A share of all, up to 1 or `below` it.
type_share <- function(below = TRUE) {
  number_of("SHARE", function(x, argument) {
    check_share(x, argument, below)
  })
}

type_whole <- function(least, most, meaning, value = "COUNT") {
  number_of(value, function(x, argument) {
    check_whole(x, argument, least, most, meaning)
  })
}

type_seed <- function() type_whole(0, 2^31 - 1, "a seed", "NUMBER")

number_of <- function(value, check) {
  replace(type_number(value), "check", list(check))
}

# "a, b"
type_names <- function(value) {
  new_type(value, function(text, argument) {
    if (identical(text, "none")) {
      character()
    } else {
      unlist(lapply(strsplit(text, ",", fixed = TRUE), trimws))
    }
  })
}

# "1" is the number 1; what is not a number stays text, for the verb to judge.
number_or_text <- function(x) {
  number <- suppressWarnings(as.numeric(x))
  if (anyNA(number)) x else number
}

stop_text <- function(text, argument, expected) {
  abort_backfill(
    "usage", "`{argument}` is {in_words(quoted(text))}.",
    i = "{expected}"
  )
}

# The two of "weekday,hour".
two_names <- function(text, argument, example) {
  names <- trimws(strsplit(text, ",", fixed = TRUE)[[1]])
  if (length(names) != 2) {
    stop_text(
      text, argument,
      sprintf(
        "It must be two names with a comma between them, such as %s.", example
      )
    )
  }
  names
}

# Both arguments of "weekday,hour", such as c("rows", "columns").
type_pair <- function(value, gives, example) {
  new_type(value, function(text, argument) {
    stats::setNames(as.list(two_names(text, argument, example)), gives)
  }, gives, form = "pair")
}

# "-5, 0, 5"
type_numbers <- function(value) {
  new_type(value, function(text, argument) {
    numbers <- suppressWarnings(as.numeric(
      strsplit(text, ",", fixed = TRUE)[[1]]
    ))
    if (length(numbers) == 0 || anyNA(numbers)) {
      stop_text(
        text, argument,
        "It must be numbers with commas between them: \"-5, 0, 5\"."
      )
    }
    numbers
  })
}

# "6:9" or "6,7,8"
type_hours <- function() {
  new_type("HOURS", function(text, argument) {
    parts <- strsplit(strsplit(text, ",", fixed = TRUE)[[1]], "[:-]")
    hours <- suppressWarnings(lapply(parts, as.numeric))
    if (
      length(hours) == 0 || anyNA(unlist(hours)) ||
        any(!lengths(hours) %in% 1:2)
    ) {
      stop_text(
        text, argument, "It must be hours from 0 to 23, such as 6:9 or 22,23."
      )
    }
    unlist(lapply(hours, function(ends) seq(ends[[1]], ends[[length(ends)]])))
  })
}

type_yes_no <- function() {
  new_type(
    "YES|NO",
    function(text, argument) {
      check_one_of(text, c("yes", "no"), argument) == "yes"
    }, check = check_flag
  )
}

# "percent:10" and "sd:2", or "cod=0.6, ling=0.4", to c(percent = 10, sd = 2)
# and so on; `example` shows one.
type_named_numbers <- function(value, example, mark = ":") {
  new_type(value, function(text, argument) {
    each <- trimws(unlist(strsplit(text, ",", fixed = TRUE)))
    form <- sprintf("^(.*)%s([^%s]*)$", mark, mark)
    number <- suppressWarnings(as.numeric(sub(form, "\\2", each)))
    if (length(each) == 0 || !all(grepl(form, each)) || anyNA(number)) {
      stop_text(
        text, argument,
        sprintf("It must be a name and a number, such as %s.", example)
      )
    }
    stats::setNames(number, trimws(sub(form, "\\1", each)))
  })
}

# "new = old", as list(new = "old").
type_renamed <- function() {
  type_pairs(
    "NEW=OLD",
    "It must be the new name and the old one, such as nights=guest_nights."
  )
}

# What stands behind the sign, by what stands before it; of one name there may
# be several.
type_pairs <- function(value, expected) {
  new_type(value, function(text, argument) {
    if (!all(grepl("^[^=]+=.+$", text))) {
      stop_text(text, argument, expected)
    }
    name <- trimws(sub("=.*", "", text))
    lapply(split(
      trimws(sub("^[^=]*=", "", text)), factor(name, unique(name))
    ), identity)
  }, form = "renamed")
}

# What a file holds, by the name of the function that reads it.
type_file <- function(reader) {
  new_type(
    "FILE", function(text, argument) {
      if (!rlang::is_string(text)) {
        stop_text(text, argument, "It must be one file.")
      }
      match.fun(reader)(text)
    },
    form = "made_of_file", reader = reader
  )
}

# An earlier result, which a study names.
type_earlier <- function() new_type("NAME", form = "earlier")
