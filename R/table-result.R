# Results: tables of findings, one fact per row. `what` names their class, for
# which describe() and the like have methods. All columns are needed, unless
# those that are not say otherwise.
new_result <- function(data, what, facts, needed = names(data)) {
  new_table(data, c(what, "result"), needed, facts)
}
