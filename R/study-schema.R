#' The JSON Schema of studies
#'
#' For editors that complete and check YAML by a schema: it is made from the
#' verbs and their arguments as they are. Point the editor to the file that
#' `backfill study schema` prints.
#'
#' @return The schema, as text of JSON (2020-12).
#' @seealso [read_study()].
#' @examplesIf requireNamespace("jsonlite", quietly = TRUE)
#' cat(substr(study_schema(), 1, 300))
#' @export
study_schema <- function() {
  declared <- verbs()
  files <- object_schema(declared$read_records$arguments)
  files$properties <- c(
    list(file = text_or_list("The file, or several of one shape.")),
    files$properties
  )
  files$required <- list("file")
  elsewhere <- object_schema(declared$records_at$arguments)
  elsewhere$required <- list("database", "table")
  sources <- list(anyOf = list(files, elsewhere))
  steps <- lapply(unname(step_verbs()), step_schema)
  text <- function(about) list(type = "string", description = about)
  schema <- list(
    "$schema" = "https://json-schema.org/draft/2020-12/schema",
    title = "A study of Backfill", type = "object",
    additionalProperties = FALSE, required = list("backfill", "records"),
    properties = list(
      backfill = list(const = 1), title = text("What the study is about."),
      note = text("Text of your own."),
      records = list(
        type = "object", additionalProperties = sources,
        description = "Each source of dated records by a name of your choice."
      ),
      calendar = object_schema(declared$calendar$arguments),
      steps = list(type = "array", items = list(anyOf = steps)),
      events = text("A file with the columns date and note."),
      report = report_schema(), tables = list(
        type = list("string", "array"),
        items = list(enum = list("csv", "xlsx", "parquet")),
        description = "The formats that tables are written in."
      ),
      figures = list(type = "array", items = list(
        type = "object", required = list("of"), properties = list(
          of = text("The step that is drawn."), name = text(
            "Name of its file."
          ),
          column = text("Of periods the column that is drawn."),
          type = text("How it is drawn.")
        )
      ))
    )
  )
  as.character(jsonlite::toJSON(
    schema, auto_unbox = TRUE, pretty = TRUE, null = "null"
  ))
}

report_schema <- function() {
  list(
    type = list("boolean", "object"), additionalProperties = FALSE,
    properties = list(
      formats = text_or_list("html, md or pdf."),
      sections = text_or_list("The steps that it tells of, in order.")
    )
  )
}

text_or_list <- function(about) {
  list(
    type = list("string", "array"), items = list(type = "string"),
    description = about
  )
}

object_schema <- function(arguments) {
  own <- arguments[setdiff(names(arguments), "...")]
  list(
    type = "object", additionalProperties = "..." %in% names(arguments),
    properties = if (length(own) > 0) {
      lapply(own, argument_schema)
    } else {
      stats::setNames(list(), character())
    }
  )
}

# Wide enough for what the verb takes; what is wrong with a value itself the
# verb says.
argument_schema <- function(argument) {
  types <- switch(
    argument$type$form, flag = "boolean", measures = , renamed = ,
    formulas = list("object", "array", "string"),
    calendar = list("string", "object"),
    made_of_file = , path = , earlier = "string",
    number = list("number", "string", "array"),
    list("string", "number", "boolean", "array", "object")
  )
  choices <- argument$type$choices
  c(
    list(type = types, description = argument$about),
    if (!is.null(choices)) list(enum = as.list(choices))
  )
}

step_schema <- function(verb) {
  arguments <- object_schema(verb$arguments)
  arguments$type <- list("object", "null")
  list(
    type = "object", additionalProperties = FALSE,
    required = list(verb$name), description = verb$about,
    properties = c(
      stats::setNames(list(arguments), verb$name),
      list(
        name = list(
          type = "string", description = "The name of what it makes."
        ),
        from = list(
          type = list("string", "array"), items = list(type = "string"),
          description = "The records or the step that it works on."
        ),
        note = list(type = "string", description = "Text of your own.")
      )
    )
  )
}
