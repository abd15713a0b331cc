# R CMD check runs the examples, with those that ask for somebody at the console
# left out.
test_that("every exported function has an example", {
  shown <- lapply(tools::Rd_db("backfill"), function(page) {
    code <- withr::local_tempfile(fileext = ".R")
    tools::Rd2ex(page, code)
    if (file.exists(code)) all.names(parse(code))
  })
  expect_identical(
    setdiff(getNamespaceExports("backfill"), c(unlist(shown), "autoplot")),
    character()
  )
})
