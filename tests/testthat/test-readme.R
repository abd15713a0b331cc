test_that("the README shows what its commands print", {
  root <- checkout()
  ran <- processx::run(
    file.path(R.home("bin"), "Rscript"),
    c("--vanilla", "tools/readme.R", "--check"), wd = root,
    error_on_status = FALSE,
    env = c("current", R_LIBS = paste(.libPaths(), collapse = ":"))
  )
  expect_identical(ran$status, 0L, label = ran$stdout)
})

test_that("the README links to what is there", {
  text <- readLines(checkout("README.md"))
  links <- unlist(regmatches(text, gregexpr("\\]\\(([^)]+)\\)", text)))
  links <- gsub("^\\]\\(|\\)$", "", links)
  expect_gt(length(links), 5)
  expect_true(all(file.exists(checkout(links))))
})
