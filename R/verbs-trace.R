# The verb that traces a figure.

declare_trace_value <- function() {
  new_verb(
    "trace_value", "periods or a result", "a result",
    "Give what one figure was made of, down to the records.",
    period = verb_argument(type_text("PERIOD"), paste(
      "Trace the figure in PERIOD, such as 2031-04 or 2031-04-09."
    )),
    series = verb_argument(type_text("SERIES"), paste(
      "Of the series SERIES, as tables print its name; not needed where there",
      "is one."
    )),
    column = verb_argument(type_text("COLUMN"), paste(
      "In the column COLUMN. By default the one that was added last."
    )),
    records = verb_argument(
      type_earlier(), "The records that the table was rolled up from."
    ),
    row = verb_argument(type_number("ROW"), paste(
      "Of a table that is neither periods nor flags, the figure in its row",
      "ROW, with the column given."
    )),
    made_of = verb_argument(
      type_earlier(), "The table that the result was made of."
    )
  )
}
