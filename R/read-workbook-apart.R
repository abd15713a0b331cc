# What reads the cells of a workbook in a session of its own (see read-apart.R):
# functions that need nothing of this package, and are given what they need of
# each other.

ooxml_cells_apart <- function(
  path, sheet, range, unpack, named_sheet, sheet_part, stop_sparse,
  failed_formulas, facts_of_book, bare_formulas
) {
  limits <- cellranger::as.cell_limits(range)
  if (!is.na(limits$sheet)) sheet <- limits$sheet
  packed <- !endsWith(tolower(path), ".xls")
  parts <- if (packed) unpack(path)
  about <- if (packed) facts_of_book(parts)
  sheets <- readxl::excel_sheets(path)
  hidden <- if (is.null(sheet)) about$hidden
  untold <- !packed && is.null(sheet) && length(sheets) > 1
  sheet <- named_sheet(sheets, sheet, hidden)
  if (untold) about$untold <- sheet
  if (packed) {
    part <- sheet_part(parts, sheet)
    bytes <- readBin(part, "raw", file.size(part))
    if (anyNA(limits$lr)) stop_sparse(bytes)
    about$bare <- bare_formulas(bytes)
  }
  cells <- suppressWarnings(suppressMessages(readxl::read_excel(
    path, sheet = sheet, range = range, col_names = FALSE, col_types = "list",
    .name_repair = "minimal",
    progress = FALSE
  )))
  failed <- packed && length(grepRaw("t=[\"']e[\"']", bytes)) > 0
  if (failed) cells <- failed_formulas(cells, part, limits$ul)
  about$passed <- intersect(sheets[cumsum(sheets == sheet) == 0], hidden)
  list(cells = cells, about = about)
}

ods_cells_apart <- function(
  path, sheet, range, unpack, named_sheet, hidden_ods_sheets
) {
  parts <- unpack(path)
  sheets <- readODS::list_ods_sheets(path)
  several <- is.null(sheet) && length(sheets) > 1
  hidden <- if (several) hidden_ods_sheets(parts)
  sheet <- named_sheet(sheets, sheet, hidden)
  cells <- suppressWarnings(suppressMessages(readODS::read_ods(
    path, sheet = sheet, range = range, col_names = FALSE, col_types = NA,
    as_tibble = TRUE,
    .name_repair = "minimal", ods_format = "ods", strings_as_factors = FALSE
  )))
  list(cells = cells, about = list(
    passed = intersect(sheets[cumsum(sheets == sheet) == 0], hidden)
  ))
}

# Unpacks a workbook into a folder, which verifies the checksum of each of its
# parts.
unpack_workbook <- function(path) {
  names <- gsub("\\", "/", zip::zip_list(path)$filename, fixed = TRUE)
  if (any(grepl("^(/|[A-Za-z]:)|(^|/)[.][.](/|$)", names))) {
    stop("It names files outside of itself.")
  }
  parts <- tempfile("workbook-")
  zip::unzip(path, exdir = parts)
  parts
}

# list(hidden, serial): its hidden sheets, and of which sort its serial days
# are.
facts_of_book <- function(parts) {
  book <- xml2::read_xml(file.path(parts, "xl", "workbook.xml"))
  all_named <- function(name) {
    xml2::xml_find_all(book, sprintf("//*[local-name()='%s']", name))
  }
  sheets <- all_named("sheet")
  hidden <- xml2::xml_attr(sheets, "state") %in% c("hidden", "veryHidden")
  since <- xml2::xml_attr(all_named("workbookPr"), "date1904")
  list(
    hidden = xml2::xml_attr(sheets, "name")[hidden],
    serial = if (any(since %in% c("1", "true"))) "day 1904"
  )
}

# How many cells have a formula and no value that was stored with it.
bare_formulas <- function(bytes) {
  length(grepRaw(
    "(</f>|<f[^>]*/>)(<v></v>|<v/>)?</c>", bytes, all = TRUE
  ))
}

hidden_ods_sheets <- function(parts) {
  content <- xml2::read_xml(
    file.path(parts, "content.xml"), options = "HUGE"
  )
  find <- function(path) xml2::xml_find_all(content, path)
  style <- find(paste0(
    "//*[local-name()='style'][*[local-name()='table-properties']",
    "[@*[local-name()='display']='false']]"
  ))
  table <- find("//*[local-name()='table']")
  xml2::xml_attr(table, "name")[
    xml2::xml_attr(table, "style-name") %in% xml2::xml_attr(style, "name")
  ]
}

# The name of a sheet, of which there may be the number; by default the first
# that is not hidden.
named_sheet <- function(sheets, sheet, hidden) {
  at <- if (is.null(sheet)) match(FALSE, sheets %in% hidden, 1) else sheet
  found <- if (is.character(at)) at %in% sheets else at %in% seq_along(sheets)
  if (!found) {
    known <- paste0("\"", sheets, "\"", collapse = ", ")
    stop(sprintf("It has no sheet %s; its sheets are %s.", at, known))
  }
  if (is.character(at)) at else sheets[[at]]
}

# The file that holds a sheet.
sheet_part <- function(parts, sheet) {
  all_named <- function(file, name) {
    xml2::xml_find_all(
      xml2::read_xml(file.path(parts, "xl", file)),
      sprintf("//*[local-name()='%s']", name)
    )
  }
  sheets <- all_named("workbook.xml", "sheet")
  facts <- xml2::xml_attrs(
    sheets[[match(sheet, xml2::xml_attr(sheets, "name"))]]
  )
  links <- all_named("_rels/workbook.xml.rels", "Relationship")
  link <- match(
    facts[grepl("^(.*:)?id$", names(facts))], xml2::xml_attr(links, "Id")
  )
  target <- xml2::xml_attr(links, "Target")[[link]]
  file.path(parts, if (startsWith(target, "/")) {
    target
  } else {
    file.path("xl", target)
  })
}

# The reader lays out every cell up to the last row and column, which one stray
# cell can make billions.
stop_sparse <- function(bytes) {
  opens <- which(bytes == charToRaw("<"))
  opens <- opens[opens < length(bytes) - 1]
  cells <- opens[
    bytes[opens + 1] == charToRaw("c") & bytes[opens + 2] == charToRaw(" ")
  ]
  starts <- opens[
    bytes[opens + 1] == charToRaw("r") & bytes[opens + 2] == charToRaw("o")
  ]
  last <- rawToChar(
    bytes[
      seq(max(1, starts), length.out = min(200, length(bytes) - max(1, starts)))
    ]
  )
  rows <- as.numeric(regmatches(
    last, regexpr("(?<= r=.)[0-9]+", last, perl = TRUE)
  ))
  reaches <- function(letters) {
    length(grepRaw(
      sprintf("r=[\"'][A-Z]{%d}[0-9]", letters), bytes
    )) > 0
  }
  columns <- if (reaches(3)) 16384 else if (reaches(2)) 702 else 26
  if (isTRUE(rows * columns > 1e7 + 100 * length(cells))) {
    stop(sprintf(
      paste(
        "A cell lies far off: %.0f rows and up to %.0f columns hold %.0f",
        "cells. Name the range to be read."
      ),
      rows, columns, length(cells)
    ))
  }
}

# The reader gives cells whose formula failed as blank; here they get what the
# sheet shows in them, such as #DIV/0!. `corner`: the row and the column of the
# first cell that was read.
failed_formulas <- function(cells, part, corner) {
  failed <- xml2::xml_find_all(
    xml2::read_xml(part, options = "HUGE"), "//*[local-name()='c'][@t='e']"
  )
  shown <- xml2::xml_text(xml2::xml_find_first(failed, "./*[local-name()='v']"))
  for (i in seq_along(failed)) {
    at <- cellranger::as.cell_limits(xml2::xml_attr(
      failed[[i]], "r"
    ))$ul - corner + 1
    inside <- all(at >= 1) && at[[1]] <= nrow(cells) && at[[2]] <= ncol(cells)
    if (inside && !is.na(shown[[i]])) cells[[at[[2]]]][[at[[1]]]] <- shown[[i]]
  }
  cells
}
