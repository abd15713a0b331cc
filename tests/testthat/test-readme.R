# `make check` runs what the README and the guides show.
test_that("the README links to what is there", {
  text <- readLines(checkout("README.md"))
  links <- unlist(regmatches(text, gregexpr("\\]\\(([^)]+)\\)", text)))
  links <- gsub("^\\]\\(|\\)$", "", links)
  expect_gt(length(links), 5)
  expect_true(all(file.exists(checkout(links))))
})
