# The note of an author: paragraphs, lists and code, and nothing else. What
# looks like any other mark is text.

# Its blocks in turn, each list(kind, text): the text of a paragraph, the items
# of a list ("bullets", "numbered"), or the lines of "code".
note_blocks <- function(note) {
  lines <- unlist(strsplit(as.character(note), "\r?\n"))
  if (length(lines) == 0) {
    return(NULL)
  }
  fence <- grepl("^\\s*```", lines)
  coded <- fence | cumsum(fence) %% 2 == 1
  item <- regmatches(lines, regexec("^\\s*([-*+]|[0-9]+[.)])\\s+(.*)$", lines))
  is_item <- lengths(item) > 0 & !coded
  kind <- ifelse(coded, "code", ifelse(grepl("\\S", lines), "paragraph", "gap"))
  kind[is_item] <- ifelse(
    grepl("^[0-9]", vapply(item[is_item], `[[`, "", 2)), "numbered", "bullets"
  )
  # What follows an item belongs to it until a blank line.
  for (i in seq_along(kind)[-1]) {
    goes_on <- kind[[i]] == "paragraph" &&
      kind[[i - 1]] %in% c("numbered", "bullets")
    if (goes_on) kind[[i]] <- kind[[i - 1]]
  }
  lines[is_item] <- vapply(item[is_item], `[[`, "", 3)
  block <- cumsum(c(TRUE, kind[-1] != kind[-length(kind)]))
  blocks <- lapply(split(seq_along(lines), block), function(at) {
    text <- lines[at]
    switch(
      kind[[at[[1]]]],
      gap = NULL, code = list(kind = "code", text = text[!fence[at]]),
      paragraph = list(
        kind = "paragraph", text = paste(trimws(text), collapse = " ")
      ),
      list(
        kind = kind[[at[[1]]]],
        text = unname(tapply(trimws(text), cumsum(is_item[at]), paste,
                             collapse = " "))
      )
    )
  })
  unname(Filter(Negate(is.null), blocks))
}

# Text with what stands between backticks put by `coded`, the rest by `plain`.
in_spans <- function(text, plain, coded) {
  vapply(as.character(text), function(one) {
    found <- gregexpr("`[^`]+`", one)
    code <- regmatches(one, found)[[1]]
    rest <- regmatches(one, found, invert = TRUE)[[1]]
    code <- coded(substr(code, 2, nchar(code) - 1))
    paste(c(rbind(plain(rest), c(code, ""))), collapse = "")
  }, "", USE.NAMES = FALSE)
}
