# Results: tables of findings, one fact per row. `what` names their class, for
# which describe() and the like have methods. All columns are needed, unless
# those that are not say otherwise. Where it is of several measures, each line
# is named with its own, in each sentence and picture alike: `several`, which a
# verb says whose result has rows of some lines alone.
new_result <- function(data, what, facts, needed = names(data)) {
  if (!is.null(data[["measure"]])) {
    facts$several <- isTRUE(facts$several) || several_measures(data)
  }
  new_table(data, c(what, "result"), needed, facts)
}

several_measures <- function(keys) {
  length(unique(keys[["measure"]])) > 1
}
