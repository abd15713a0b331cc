test_that("every example of the documentation runs, and every exported function has one", {
  pages <- tools::Rd_db("backfill")
  shown <- character()
  for (page in pages) {
    code <- withr::local_tempfile(fileext = ".R")
    tools::Rd2ex(page, code)
    if (file.exists(code)) {
      shown <- c(shown, all.names(parse(code)))
      grDevices::pdf(NULL)
      expect_error(
        capture.output(source(code, local = new.env(), print.eval = TRUE)), NA
      )
      grDevices::dev.off()
    }
  }
  expect_identical(
    setdiff(getNamespaceExports("backfill"), c(shown, "autoplot")),
    character()
  )
})
