# What the project weighs: lines of code (without comments and blanks),
# functions and tokens of each room, functions that one place calls, lines of
# C++ and of tests. With `--time` also the seconds of processor time to build
# and to test, which take minutes.

code_lines <- function(file, comment) {
  sum(!grepl(sprintf("^\\s*(%s|$)", comment), readLines(file, warn = FALSE)))
}

room_of <- function(file) sub("[-.].*", "", basename(file))

# Tokens of a file, the functions that it defines, and the names that it uses.
parsed_file <- function(file) {
  data <- utils::getParseData(parse(file, keep.source = TRUE))
  defined <- grep("^[^ #}]+ <- function\\(", readLines(file), value = TRUE)
  # Code in the braces of a template counts as well.
  texts <- data$text[data$token == "STR_CONST"]
  templates <- unlist(regmatches(texts, gregexpr("[{][^}]+[}]", texts)))
  list(
    tokens = sum(data$terminal & data$token != "COMMENT"),
    functions = sub(" <- .*", "", defined),
    names = c(
      data$text[data$token %in% c("SYMBOL", "SYMBOL_FUNCTION_CALL")],
      unlist(regmatches(
        templates, gregexpr("[A-Za-z.][A-Za-z0-9._]*", templates)
      ))
    )
  )
}

weigh <- function(files) {
  parsed <- lapply(files, parsed_file)
  named <- table(unlist(lapply(parsed, `[[`, "names")))
  # The definition names it, too.
  called <- function(functions) sum(named[functions] == 2, na.rm = TRUE)
  weights <- data.frame(
    room = room_of(files), lines = vapply(files, code_lines, 0L, "#"),
    functions = lengths(lapply(parsed, `[[`, "functions")),
    one_caller = vapply(parsed, function(x) called(x$functions), 0),
    tokens = vapply(parsed, `[[`, 0L, "tokens")
  )
  rooms <- stats::aggregate(. ~ room, weights, sum)
  rooms <- rooms[order(-rooms$lines), ]
  rbind(rooms, data.frame(room = "all", t(colSums(rooms[-1]))))
}

seconds_of <- function(command) {
  spent <- function() sum(proc.time()[c("user.child", "sys.child")])
  before <- spent()
  if (system(command, ignore.stdout = TRUE, ignore.stderr = TRUE) != 0) {
    stop("This fails: ", command)
  }
  round(spent() - before)
}

r_files <- setdiff(list.files("R", full.names = TRUE), "R/RcppExports.R")
print(weigh(r_files), row.names = FALSE)
cpp <- setdiff(
  list.files("src", "[.](cpp|h)$", full.names = TRUE, recursive = TRUE),
  "src/RcppExports.cpp"
)
tests <- list.files("tests", "[.]R$", full.names = TRUE, recursive = TRUE)
all_lines <- function(files, comment) {
  sum(vapply(files, code_lines, 0L, comment))
}
cat(sprintf(
  "\nLines of C++: %d. Lines of tests: %d.\n", all_lines(cpp, "//"),
  all_lines(tests, "#")
))
if ("--time" %in% commandArgs(TRUE)) {
  unlink("build/library/backfill", recursive = TRUE)
  build <- seconds_of("make build/library/backfill/DESCRIPTION")
  cat(sprintf("Seconds to build: %d. ", build))
  cat(sprintf("Seconds to test: %d.\n", seconds_of("make test")))
}
