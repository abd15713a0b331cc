# Text of figures, the same whatever the options of a session say of digits,
# decimal marks and exponents.

plain_options <- list(OutDec = ".", scipen = 0, digits = 7)

plain_format <- function(x, ...) {
  old <- options(plain_options)
  on.exit(options(old))
  format(x, ...)
}

plain_formatC <- function(x, ...) { # nolint: object_name_linter.
  old <- options(plain_options)
  on.exit(options(old))
  formatC(x, ...)
}

# A change with its sign, which some units have already.
with_sign <- function(text, x) {
  text <- trimws(text)
  ifelse(x > 0 & !grepl("^[+0.,]+$|^[+]", text), paste0("+", text), text)
}

# What is rounded to nothing has no sign.
unsigned_zero <- function(text) {
  sub("^( *)[-+](0(?:[.]0*)?(?:%| pp)?) *$", "\\1\\2", text, perl = TRUE)
}

# "1,250"
thousands <- function(x) {
  plain_format(
    x, big.mark = ",", scientific = FALSE, trim = TRUE
  )
}
