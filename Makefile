# The commands of the project. `make demo` and `make test` are the two to know.
LIBRARY   := build/library
INSTALLED := $(LIBRARY)/backfill/DESCRIPTION
SOURCES   := DESCRIPTION NAMESPACE $(wildcard R/*.R src/*.cpp src/*.h src/kernels/*.h src/Makevars exec/* inst/extdata/* inst/*.csv)
BACKFILL  := $(LIBRARY)/backfill/exec/backfill

.PHONY: demo first-hour test sheet mutate test-engines bench-engines oracle sanitize fuzz fuzz-kernels check lint format measure bench rates validation document install setup setup-all data readme pictures clean help

help:
	@echo "make demo       install what is missing, build, and run the demo"
	@echo "make test       run the tests; the last line counts them"
	@echo "make test-engines  the tests against PostgreSQL and ClickHouse, which it installs, starts and stops"
	@echo "make bench-engines  50 million records counted there, into bench/RESULTS.md"
	@echo "make oracle     the oracles of the tests over thousands of random tables, and whole what the tests take samples of"
	@echo "make sanitize   the tests that touch the kernels, on a build that watches memory and undefined operations"
	@echo "make fuzz       thousands of damaged files of every format, into bench/FUZZ.md"
	@echo "make fuzz-kernels  libFuzzer over the kernels that parse text, an hour (SECONDS=60: of each)"
	@echo "make first-hour  what a newcomer gets of eight files with planted truths"
	@echo "make check      R CMD check of the built package, and what the README and the guides show"
	@echo "make install    install the package for R, and the command 'backfill' on the PATH"
	@echo "make lint       check the style, and the spelling of the help and the pages"
	@echo "make format     lay out the C++ by clang-format"
	@echo "make measure    lines, functions and tokens of each room; tools/measure.R --time adds the seconds of build and tests"
	@echo "make bench      time the package beside the bare floor and general-purpose means, into bench/RESULTS.md"
	@echo "make validation  what is computed beside certified values and base R, into docs/validation.md"
	@echo "make rates      how often each verdict is wrong, simulated, into inst/rates.csv (RATES=quick: of few series, to look at; ONLY=pattern)"
	@echo "make document   write the documentation and the R side of the C++ doors anew"
	@echo "make data       make the demo data anew"
	@echo "make readme     put what the README's commands print into the README"
	@echo "make pictures   make docs/screenshots anew"
	@echo "make sheet      every kind of figure of every kind of table on one page, to look at: build/sheet/index.html"
	@echo "make mutate     plant faults in the code, one at a time, and say which the tests do not find (COUNT=60; hours)"
	@echo "make clean      remove what was built"

setup:
	@tools/setup.sh

# With the packages that only some file formats and the tests need.
setup-all:
	@tools/setup.sh --all

$(INSTALLED): $(SOURCES)
	@tools/setup.sh
	@mkdir -p $(LIBRARY)
	@echo "Building backfill into $(LIBRARY) ..."
	@R_MAKEVARS_USER=$(CURDIR)/tools/Makevars MAKE="make -j2" R CMD INSTALL --preclean --no-test-load --library=$(LIBRARY) . >build/install.log 2>&1 || { cat build/install.log; exit 1; }

demo: $(INSTALLED)
	@tools/setup.sh yaml htmltools svglite
	@$(BACKFILL) demo --out build/demo

test: setup-all $(INSTALLED)
	@R_LIBS="$(CURDIR)/$(LIBRARY):$$R_LIBS" BACKFILL_SOURCE="$(CURDIR)" Rscript --vanilla tools/run-tests.R

# Against PostgreSQL and ClickHouse, which are installed, started and stopped.
test-engines: setup-all $(INSTALLED)
	@tools/test-engines.sh

# The slow oracles in base R, over thousands of random tables.
oracle: setup-all $(INSTALLED)
	@R_LIBS="$(CURDIR)/$(LIBRARY):$$R_LIBS" BACKFILL_SOURCE="$(CURDIR)" BACKFILL_ORACLE=3000 Rscript --vanilla tools/run-tests.R oracle
	@R_LIBS="$(CURDIR)/$(LIBRARY):$$R_LIBS" BACKFILL_SOURCE="$(CURDIR)" BACKFILL_ORACLE=400 BACKFILL_FUZZ=20 BACKFILL_PAIRS=0 Rscript --vanilla tools/run-tests.R any-name calendar cli elsewhere figure-limits fuzz keep kernels options trace-results

sanitize: setup-all
	@tools/sanitize.sh

first-hour: setup-all $(INSTALLED)
	@tools/first-hour.sh

# Damaged files of every format; ROUNDS of each class.
fuzz: setup-all $(INSTALLED)
	@R_LIBS="$(CURDIR)/$(LIBRARY):$$R_LIBS" Rscript --vanilla tools/fuzz.R $(or $(ROUNDS),50)

fuzz-kernels:
	@tools/fuzz-kernels.sh $(or $(SECONDS),1200)

check: setup-all $(INSTALLED)
	@tools/check.sh

lint:
	@tools/setup.sh lintr cyclocomp spelling
	@Rscript --vanilla tools/lint.R

KERNELS   := $(filter-out src/RcppExports.cpp,$(wildcard src/*.cpp src/*.h src/kernels/*.h tests/kernels/*.cpp tests/kernels/*.h))

format:
	@clang-format -i $(KERNELS)

measure:
	@Rscript --vanilla tools/measure.R

bench: setup $(INSTALLED)
	@for bench in reading roll-up chunked moving season memory links whole-jobs; do \
	  R_LIBS="$(CURDIR)/$(LIBRARY):$$R_LIBS" Rscript --vanilla bench/$$bench.R || exit 1; \
	done

# What is computed beside certified values and base R, into docs/validation.md.
validation: setup-all $(INSTALLED)
	@R_LIBS="$(CURDIR)/$(LIBRARY):$$R_LIBS" Rscript --vanilla tools/validation.R

# How often verdicts are wrong, into inst/rates.csv.
rates: setup $(INSTALLED)
	@R_LIBS="$(CURDIR)/$(LIBRARY):$$R_LIBS" Rscript --vanilla bench/rates.R $(if $(ONLY),"$(ONLY)")

bench-engines: setup-all $(INSTALLED)
	@tools/test-engines.sh --bench

document:
	@tools/setup.sh roxygen2
	@Rscript --vanilla -e 'Rcpp::compileAttributes()' -e 'roxygen2::roxygenise(load_code = "source")'

install: setup
	@tools/install.sh

data: setup-all
	@Rscript --vanilla data-raw/demo-world.R

readme: setup-all $(INSTALLED)
	@R_LIBS="$(CURDIR)/$(LIBRARY):$$R_LIBS" Rscript --vanilla tools/readme.R

pictures: setup-all $(INSTALLED)
	@R_LIBS="$(CURDIR)/$(LIBRARY):$$R_LIBS" tools/screenshots.sh

sheet: setup-all $(INSTALLED)
	@R_LIBS="$(CURDIR)/$(LIBRARY):$$R_LIBS" Rscript --vanilla tools/sheet.R

mutate: setup-all
	@Rscript --vanilla tools/mutate.R $(or $(COUNT),60)

clean:
	rm -rf build src/*.o src/*.so
