# The tree that explains a target, and what it consists of.

fit_tree <- function(data, depth, least) {
  rpart::rpart(
    target ~ ., data, method = "anova",
    control = rpart::rpart.control(
      maxdepth = depth, minbucket = least, minsplit = 2 * least, xval = 0
    )
  )
}

# The share of each candidate, over all its horizons, in the sums of squares
# that the splits take away.
importance_of <- function(tree, features) {
  frame <- tree$frame
  node <- as.integer(rownames(frame))
  split <- which(frame$var != "<leaf>")
  left <- function(child) frame$dev[match(2 * node[split] + child, node)]
  gain <- frame$dev[split] - left(0) - left(1)
  whose <- features$candidate[match(frame$var[split], features$column)]
  lines <- unique(features$candidate)
  share <- vapply(lines, function(line) sum(gain[whose == line]), 0)
  out <- new_rows(
    candidate = lines,
    share = unname(if (sum(share) > 0) share / sum(share) else share)
  )
  out[order(-out$share), ]
}

# A row for each node of the tree: which change leads to it from the node above
# (below the cut or from it), how many periods it has and their mean change.
splits_of <- function(tree, features) {
  frame <- tree$frame
  leaf <- frame$var == "<leaf>"
  node <- as.integer(rownames(frame))
  rows <- frame$ncompete + frame$nsurrogate + !leaf
  at <- (cumsum(c(1, rows)))[seq_along(rows)]
  parent <- match(node %/% 2, node)
  feature <- match(as.character(frame$var[parent]), features$column)
  splits <- tree$splits %||% matrix(NA_real_, 1, 2, dimnames = list(
    NULL, c("ncat", "index")
  ))
  split <- splits[at[parent], c("ncat", "index"), drop = FALSE]
  # Where ncat is -1 the left child has what is below the cut.
  below <- (split[, "ncat"] < 0) == (node %% 2 == 0)
  new_rows(
    node = node, candidate = features$candidate[feature],
    horizon = features$horizon[feature],
    side = ifelse(unname(below), "below", "from"),
    cut = unname(split[, "index"]),
    leaf = leaf, n = as.integer(frame$n), mean = frame$yval
  )
}

# " over 2 quarters", and nothing for figures themselves.
over_in_words <- function(counts, calendar) {
  vapply(counts, function(count) {
    if (count %in% c(0, NA)) "" else
      paste(" over", count_of_steps(count, calendar))
  }, "")
}

# What the tree was given, with names to read.
named_rows <- function(given, stretch, from, calendar) {
  features <- given$features
  names <- if (length(unique(features$horizon)) == 1) {
    features$candidate
  } else {
    paste0(features$candidate, over_in_words(features$horizon, calendar))
  }
  changes <- stats::setNames(as.list(given$data[-1]), names)
  new_rows(
    stretch = stretch, from = from, target = given$data$target, !!!changes,
    unique = FALSE
  )
}
