# Breaks lines of R code and comments that are longer than 80 columns. Usage:
# tools/format.R FILE...
# A line is broken at the outermost bracket that reaches over its end: what is
# inside goes on lines of its own, as many arguments on each as fit, or else
# behind an operator. Texts are parted only where a paste() puts them together.
width <- 80

tokens_of <- function(lines) {
  data <- utils::getParseData(parse(text = lines, keep.source = TRUE))
  data <- data[data$terminal, ]
  data[order(data$line1, data$col1), ]
}

# For each opening bracket the row of the one that closes it.
partners <- function(tokens) {
  open <- integer()
  partner <- rep(NA_integer_, nrow(tokens))
  for (i in seq_len(nrow(tokens))) {
    token <- tokens$token[[i]]
    if (token %in% c("'('", "'['", "'{'")) open <- c(open, i)
    if (token == "LBB") open <- c(open, i, i)
    if (token %in% c("')'", "']'", "'}'")) {
      partner[[open[[length(open)]]]] <- i
      open <- open[-length(open)]
    }
  }
  partner
}

indent_of <- function(line) nchar(sub("^( *).*", "\\1", line))

spaces <- function(n) strrep(" ", max(n, 0))

# The text from one place to another, as lines.
between <- function(lines, line1, col1, line2, col2) {
  if (line1 == line2) return(substr(lines[[line1]], col1, col2))
  middle <- if (line2 - line1 > 1) lines[(line1 + 1):(line2 - 1)]
  c(substring(lines[[line1]], col1), middle, substr(lines[[line2]], 1, col2))
}

# The lines of an argument that moves from column `old` to column `new`.
moved <- function(text, old, new) {
  if (length(text) == 1) return(text)
  rest <- text[-1]
  indent <- indent_of(rest)
  filled <- nzchar(trimws(rest))
  last <- rest[[length(rest)]]
  by <- if (grepl("^ *[])}]", last)) {
    new - indent_of(last)
  } else if (min(indent[filled]) >= old) {
    new - old
  } else {
    new + 2 - min(indent[filled])
  }
  c(
    text[[1]],
    ifelse(filled, paste0(spaces_each(indent + by), trimws(rest, "left")), "")
  )
}

spaces_each <- function(n) strrep(" ", pmax(n, 0))

# Puts what is between two brackets on lines of its own.
explode <- function(lines, tokens, open, close) {
  from <- tokens[open, ]
  to <- tokens[close, ]
  base <- indent_of(lines[[from$line1]])
  inner <- seq(open + 1, close - 1)
  depth <- 0
  starts <- open + 1
  for (i in inner) {
    token <- tokens$token[[i]]
    if (token %in% c("'('", "'['", "'{'", "LBB")) depth <- depth + 1 +
      (token == "LBB")
    if (token %in% c("')'", "']'", "'}'")) depth <- depth - 1
    if (token == "','" && depth == 0) starts <- c(starts, i + 1)
  }
  ends <- c(starts[-1] - 2, close - 1)
  column <- base + 2
  out <- character()
  at <- ""
  for (k in seq_along(starts)) {
    if (starts[[k]] > ends[[k]]) {
      text <- ""
    } else {
      a <- tokens[starts[[k]], ]
      b <- tokens[ends[[k]], ]
      text <- moved(
        between(lines, a$line1, a$col1, b$line2, b$col2), a$col1 - 1, column
      )
    }
    if (grepl("=$", text[[length(text)]])) {
      text[[length(text)]] <- paste0(text[[length(text)]], " ")
    }
    comma <- if (k < length(starts)) "," else ""
    text[[length(text)]] <- paste0(text[[length(text)]], comma)
    fits <- length(text) == 1 && nzchar(at) &&
      nchar(at) + 1 + nchar(text) <= width
    if (fits) {
      at <- paste(at, text)
    } else {
      if (nzchar(at)) out <- c(out, at)
      at <- paste0(spaces(column), text[[1]])
      if (length(text) > 1) {
        out <- c(out, at, text[-1])
        at <- ""
      }
    }
  }
  if (nzchar(at)) out <- c(out, at)
  head <- substr(lines[[from$line1]], 1, from$col2)
  tail <- paste0(spaces(base), substring(lines[[to$line1]], to$col1))
  c(lines[seq_len(from$line1 - 1)], head, out, tail, lines[-seq_len(to$line1)])
}

operators <- c(
  "AND", "OR", "AND2", "OR2", "'+'", "'-'", "'*'", "'/'", "SPECIAL", "PIPE",
  "ELSE", "LEFT_ASSIGN"
)

# Breaks a line behind the last of its outermost operators that lies before the
# limit.
break_behind <- function(lines, tokens, partner, i) {
  here <- which(tokens$line1 == i)
  steps <- bracket_steps(tokens$token[here])
  depths <- cumsum(steps) - pmax(steps, 0)
  last <- max(here)
  fit <- here[
    tokens$token[here] %in% operators & tokens$col2[here] < width &
      here != last & here != min(here)
  ]
  # A sign is no operator.
  fit <- fit[
    !(
      tokens$token[fit] %in% c(
        "'-'", "'+'"
      ) & tokens$token[pmax(fit - 1, 1)] %in% c(
        "'('", "','", "LEFT_ASSIGN", "EQ_SUB"
      )
    )
  ]
  if (length(fit) == 0) return(NULL)
  at <- depths[match(fit, here)]
  fit <- fit[at == min(at)]
  chosen <- if (any(tokens$token[fit] %in% c("AND2", "OR2"))) max(
    fit[tokens$token[fit] %in% c("AND2", "OR2")]
  ) else max(fit)
  cut <- tokens$col2[[chosen]]
  rest <- trimws(substring(lines[[i]], cut + 1), "left")
  if (!nzchar(rest)) return(NULL)
  # Further lines of the same expression stand at the same place.
  before <- if (i > 1) lines[[i - 1]] else ""
  goes_on <- grepl("(&&|\\|\\||[+*/-]|<-|\\belse|%[^%]*%)$", before)
  indent <- indent_of(lines[[i]]) + if (goes_on) 0 else 2
  new <- c(substr(lines[[i]], 1, cut), paste0(spaces(indent), rest))
  c(lines[seq_len(i - 1)], new, lines[-seq_len(i)])
}

# Breaks a line behind the last of its outermost commas that lies before the
# limit.
break_at_comma <- function(lines, tokens, i) {
  here <- which(tokens$line1 == i)
  depth <- cumsum(c(0, bracket_steps(tokens$token[here])))[seq_along(here)] -
    (tokens$token[here] %in% closers)
  fit <- tokens$token[here] == "','" & tokens$col2[here] <= width &
    here != max(here)
  fit <- fit & depth == min(depth[tokens$token[here] == "','"], Inf)
  if (!any(fit)) return(NULL)
  cut <- max(tokens$col2[here[fit]])
  rest <- trimws(substring(lines[[i]], cut + 1), "left")
  if (!nzchar(rest) || startsWith(rest, "#")) return(NULL)
  new <- c(
    substr(lines[[i]], 1, cut), paste0(spaces(indent_of(lines[[i]])), rest)
  )
  c(lines[seq_len(i - 1)], new, lines[-seq_len(i)])
}

openers <- c("'('", "'['", "'{'", "LBB")
closers <- c("')'", "']'", "'}'")

bracket_steps <- function(token) {
  (token %in% openers) + (token == "LBB") - (token %in% closers)
}

# Parts a text that is put together by paste() anyway, or has no room on a line.
part_text <- function(lines, tokens, i) {
  here <- which(
    tokens$line1 == i & tokens$line2 == i & tokens$token == "STR_CONST" &
      tokens$col2 > width
  )
  if (length(here) == 0) return(NULL)
  k <- here[[1]]
  # The call that it is an argument of.
  depth <- 0
  opener <- NA
  for (j in rev(seq_len(k - 1))) {
    if (tokens$token[[j]] %in% c("')'", "']'", "'}'")) depth <- depth + 1
    if (tokens$token[[j]] %in% c("'('", "'['", "'{'")) {
      if (depth == 0) {
        opener <- j
        break
      }
      depth <- depth - 1
    }
  }
  text <- substr(lines[[i]], tokens$col1[[k]], tokens$col2[[k]])
  pasted <- !is.na(opener) && opener > 1 &&
    tokens$text[[opener - 1]] == "paste"
  if (pasted && any(tokens$text[opener:partners(tokens)[[opener]]] == "sep")) {
    return(NULL)
  }
  if (!pasted && (nchar(text) < width - 12 || !grepl(
    "[a-z,] [a-z%`]", text
  ))) return(NULL)
  if (!pasted) {
    base <- indent_of(lines[[i]])
    head <- paste0(substr(lines[[i]], 1, tokens$col1[[k]] - 1), "paste(")
    tail <- paste0(
      spaces(base), ")", substring(lines[[i]], tokens$col2[[k]] + 1)
    )
    new <- c(head, paste0(spaces(base + 2), text), tail)
    return(c(lines[seq_len(i - 1)], new, lines[-seq_len(i)]))
  }
  room <- width - tokens$col1[[k]] - 2
  blanks <- gregexpr(" ", text, fixed = TRUE)[[1]]
  blanks <- blanks[blanks > 2 & blanks < room & blanks < nchar(text) - 1]
  if (length(blanks) == 0) return(NULL)
  at <- max(blanks)
  first <- paste0(substr(text, 1, at - 1), "\",")
  second <- paste0("\"", substring(text, at + 1))
  head <- substr(lines[[i]], 1, tokens$col1[[k]] - 1)
  tail <- substring(lines[[i]], tokens$col2[[k]] + 1)
  new <- c(
    paste0(head, first), paste0(spaces(tokens$col1[[k]] - 1), second, tail)
  )
  c(lines[seq_len(i - 1)], new, lines[-seq_len(i)])
}

# An `if` on one line gets braces, and its parts lines of their own.
brace_if <- function(lines, i) {
  data <- utils::getParseData(parse(text = lines, keep.source = TRUE))
  ifs <- data[data$token == "IF" & data$line1 == i, ]
  for (id in ifs$parent[order(ifs$col1)]) {
    parts <- data[data$parent == id, ]
    parts <- parts[order(parts$line1, parts$col1), ]
    whole <- data[data$id == id, ]
    has_else <- any(parts$token == "ELSE")
    starts_line <- indent_of(lines[[i]]) + 1 == whole$col1 ||
      grepl("^ *(} )?else $", substr(lines[[i]], 1, whole$col1 - 1))
    values <- parts[parts$token == "expr", ]
    one_line <- whole$line1 == whole$line2
    braced <- any(data$token[data$parent %in% values$id[-1]] == "'{'")
    if (
      !one_line || whole$col2 <= width || braced || !has_else && !starts_line
    ) {
      next
    }
    line <- lines[[i]]
    base <- indent_of(line)
    close <- parts[parts$token == "')'", ]
    text <- function(k) substr(line, values$col1[[k]], values$col2[[k]])
    chain <- has_else && any(data$token[data$parent == values$id[[3]]] == "IF")
    new <- c(
      paste0(substr(line, 1, close$col2[[1]]), " {"),
      paste0(spaces(base + 2), text(2)),
      if (!has_else) paste0(spaces(base), "}", substring(line, whole$col2 + 1)),
      if (chain) {
        paste0(
          spaces(base), "} else ", text(3), substring(line, whole$col2 + 1)
        )
      },
      if (has_else && !chain) {
        c(paste0(spaces(base), "} else {"), paste0(spaces(base + 2), text(3)),
          paste0(spaces(base), "}", substring(line, whole$col2 + 1)))
      }
    )
    return(c(lines[seq_len(i - 1)], new, lines[-seq_len(i)]))
  }
  NULL
}

break_line <- function(lines, i) {
  braced <- brace_if(lines, i)
  if (!is.null(braced)) return(braced)
  tokens <- tokens_of(lines)
  partner <- partners(tokens)
  here <- which(tokens$line1 == i & tokens$token %in% c("'('", "'['"))
  here <- here[!is.na(partner[here])]
  close <- partner[here]
  # Not empty, and not broken already.
  sound <- close > here + 1 & tokens$line1[pmin(
    here + 1, nrow(tokens)
  )] == i & tokens$token[pmin(here + 1, nrow(tokens))] != "COMMENT"
  inside_comment <- vapply(
    seq_along(here),
    function(k) any(tokens$token[here[[k]]:close[[k]]] == "COMMENT"), NA
  )
  over <- tokens$line1[close] > i | tokens$col1[close] > width - 1
  fit <- here[sound & over & !inside_comment & tokens$col1[here] < width]
  # A short bracket stays whole where an operator before it will do.
  if (length(fit) > 0 && tokens$line1[[partner[[fit[[1]]]]]] == i &&
        tokens$col1[[partner[[fit[[1]]]]]] - tokens$col1[[fit[[1]]]] < 26) {
    behind <- break_behind(lines, tokens, partner, i)
    if (!is.null(behind) && nchar(behind[[i]]) > 30) return(behind)
  }
  # One argument that is a function, or a call, alone: break inside of it
  # instead.
  for (open in fit) {
    alone <- open + 2 <= partner[[open]] && tokens$token[[open]] == "'('" &&
      tokens$token[[open + 1]] == "SYMBOL_FUNCTION_CALL" && identical(
      partner[[open + 2]], partner[[open]] - 1L
    ) &&
      (open + 2) %in% fit
    if (!alone) {
      return(explode(lines, tokens, open, partner[[open]]))
    }
  }
  # A call that ends before the limit may still give way for what follows it.
  part_text(lines, tokens, i) %||% break_at_comma(
    lines, tokens, i
  ) %||% break_behind(lines, tokens, partner, i) %||% {
    last <- here[sound & !inside_comment & tokens$line1[close] == i]
    if (length(last) > 0 && !any(over)) {
      outer <- last[[which.max(tokens$col1[partner[last]] - tokens$col1[last])]]
      explode(lines, tokens, outer, partner[[outer]])
    }
  }
}

`%||%` <- function(x, y) if (is.null(x)) y else x

# Comments: paragraphs are filled, but for examples, code and tables.
fill_comments <- function(lines) {
  prefix <- regmatches(lines, regexec("^( *#'? ?)(.*)$", lines))
  is_comment <- grepl("^ *#('|$| )", lines) & !grepl("nolint", lines)
  out <- character()
  i <- 1
  in_examples <- FALSE
  in_code <- FALSE
  while (i <= length(lines)) {
    line <- lines[[i]]
    if (!is_comment[[i]]) {
      in_examples <- in_code <- FALSE
      out <- c(out, line)
      i <- i + 1
      next
    }
    text <- prefix[[i]][[3]]
    roxygen <- grepl("^ *#'", line)
    if (roxygen && grepl("^@", text)) in_examples <- grepl(
      "^@(examples|usage|export|importFrom|useDynLib)", text
    )
    if (grepl("^ *```", text)) in_code <- !in_code
    j <- i
    ends <- function(k) {
      k > length(lines) || !is_comment[[k]] || grepl(
        "^ *#'", lines[[k]]
      ) != roxygen || {
        next_text <- prefix[[k]][[3]]
        !nzchar(trimws(next_text)) || grepl(
          "^(@| *[-*] | *[0-9]+[.] |\\||```|#)", next_text
        ) ||
          indent_of(lines[[k]]) != indent_of(line)
      }
    }
    plain <- in_examples || in_code || grepl(
      "^(\\||```|#|@(export|rdname|keywords|noRd|aliases|name|method|exportS3|inherit))",
      text
    ) ||
      !nzchar(trimws(text))
    if (!plain) while (!ends(j + 1)) j <- j + 1
    if (plain || all(nchar(lines[i:j]) <= width)) {
      out <- c(out, lines[i:j])
    } else {
      lead <- sub("^( *#'? ).*", "\\1", line)
      of <- vapply(prefix[i:j], `[[`, "", 3)
      inner <- indent_of(of[[1]])
      hang <- if (roxygen && grepl("^@", of[[1]])) 2 else if (grepl(
        "^ *[-*] ", of[[1]]
      )) inner + 2 else inner
      words <- words_of(paste(trimws(of), collapse = " "))
      out <- c(
        out,
        fill(words, paste0(lead, spaces(inner)), paste0(lead, spaces(hang)))
      )
    }
    i <- j + 1
  }
  out
}

# Words, none of which ends within code, a link or a formula.
words_of <- function(text) {
  parts <- strsplit(text, " +")[[1]]
  out <- character()
  held <- NULL
  for (part in parts) {
    held <- if (is.null(held)) part else paste(held, part)
    marks <- lengths(regmatches(held, gregexpr("`", held, fixed = TRUE)))
    count <- function(mark) {
      lengths(regmatches(
        held, gregexpr(mark, held, fixed = TRUE)
      ))
    }
    whole <- marks %% 2 == 0 && count("{") == count("}")
    if (whole || nchar(held) > 60) {
      out <- c(out, held)
      held <- NULL
    }
  }
  c(out, held)
}

fill <- function(words, first, rest) {
  out <- character()
  at <- first
  started <- FALSE
  for (word in words) {
    if (started && nchar(at) + 1 + nchar(word) > width) {
      out <- c(out, at)
      at <- paste0(rest, word)
    } else {
      at <- if (started) paste(at, word) else paste0(at, word)
    }
    started <- TRUE
  }
  c(out, at)
}

# The body of a function that takes several lines stands in braces.
brace_body <- function(lines) {
  data <- utils::getParseData(parse(text = lines, keep.source = TRUE))
  functions <- data[data$token == "FUNCTION", ]
  for (i in seq_len(nrow(functions))) {
    of <- data[
      data$parent == functions$parent[[i]] & data$token %in% c(
        "expr", "expr_or_assign_or_help", "equal_assign"
      ),

    ]
    of <- of[order(of$line1, of$col1), ]
    body <- of[nrow(of), ]
    first <- data[data$parent == body$id, ]
    braced <- any(first$token == "'{'")
    if (
      braced || body$line1 == body$line2 && body$line1 == functions$line1[[i]]
    ) next
    if (body$line1 == body$line2 && functions$line1[[i]] == body$line1) next
    one_line <- body$line1 == body$line2
    start <- lines[[body$line1]]
    base <- indent_of(start)
    before <- substr(start, 1, body$col1 - 1)
    on_own_line <- !nzchar(trimws(before))
    if (on_own_line) next
    text <- between(lines, body$line1, body$col1, body$line2, body$col2)
    text[[1]] <- paste0(spaces(base + 2), text[[1]])
    if (!one_line) {
      rest <- text[-1]
      text[-1] <- ifelse(nzchar(trimws(rest)), paste0("  ", rest), rest)
    }
    tail <- substring(lines[[body$line2]], body$col2 + 1)
    new <- c(
      paste0(trimws(before, "right"), " {"), text,
      paste0(spaces(base), "}", tail)
    )
    if (one_line) next
    return(c(lines[seq_len(body$line1 - 1)], new, lines[-seq_len(body$line2)]))
  }
  lines
}

# What hangs under an opening bracket, but not at its place, goes on lines of
# its own.
rehang <- function(lines) {
  tokens <- tokens_of(lines)
  partner <- partners(tokens)
  opens <- which(tokens$token == "'('" & !is.na(partner))
  for (open in opens) {
    close <- partner[[open]]
    if (close == open + 1 || tokens$line1[[close]] == tokens$line1[[open]] ||
          tokens$line1[[open + 1]] > tokens$line1[[open]]) {
      next
    }
    if (any(tokens$token[open:close] == "COMMENT")) next
    depth <- cumsum(bracket_steps(tokens$token[(open + 1):(close - 1)]))
    inner <- (open + 1):(close - 1)
    commas <- inner[tokens$token[inner] == "','" & depth == 0]
    follows <- commas[tokens$line1[commas + 1] > tokens$line1[commas]] + 1
    if (
      length(follows) > 0 && any(
        tokens$col1[follows] != tokens$col2[[open]] + 1
      )
    ) {
      return(explode(lines, tokens, open, close))
    }
  }
  lines
}

until_settled <- function(lines, pass) {
  for (round in 1:500) {
    after <- pass(lines)
    if (identical(after, lines)) return(lines)
    lines <- after
  }
  lines
}

code_of <- function(lines) {
  parsed <- tryCatch(
    parse(text = lines, keep.source = FALSE), error = function(cnd) NULL
  )
  if (is.null(parsed)) return(NULL)
  gsub(
    "[[:space:]{}]", "", paste(unlist(lapply(parsed, deparse)), collapse = "")
  )
}

format_file <- function(file) {
  lines <- fill_comments(readLines(file, encoding = "UTF-8"))
  # What a test says is one text, which lint leaves whole too.
  given_up <- grep("^test_that\\(\"", lines, value = TRUE)
  repeat {
    long <- which(
      nchar(lines) > width & !grepl("^ *#", lines) & !lines %in% given_up
    )
    if (length(long) == 0) break
    i <- long[[1]]
    broken <- break_line(lines, i)
    if (is.null(broken) || identical(broken, lines)) {
      given_up <- c(given_up, lines[[i]])
    } else {
      # Only blanks, braces and the parting of texts may differ.
      kept <- identical(code_of(lines), code_of(broken))
      if (kept || any(grepl("paste\\(", broken[max(1, i - 6):i]))) {
        lines <- broken
      } else {
        given_up <- c(given_up, lines[[i]])
      }
    }
  }
  lines <- until_settled(until_settled(lines, brace_body), rehang)
  lines <- sub(" +$", "", lines)
  writeLines(lines, file, useBytes = TRUE)
  sum(nchar(lines) > width)
}

for (file in commandArgs(trailingOnly = TRUE)) {
  left <- format_file(file)
  if (left > 0) cat(file, ": ", left, " lines left\n", sep = "")
}
