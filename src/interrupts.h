// How long work hears of Ctrl-C: R is asked from its own thread, whose answer
// the others see.
#ifndef BACKFILL_INTERRUPTS_H
#define BACKFILL_INTERRUPTS_H

#include <Rcpp/Lightest>

#include <atomic>
#include <thread>

namespace backfill {

class Interrupts {
 public:
  // Whether to go on.
  bool operator()() {
    if (std::this_thread::get_id() == own_ &&
        R_ToplevelExec(ask, nullptr) == FALSE)
      wanted_ = true;
    return !wanted_;
  }
  // To be called once all threads have ended.
  void obey() const {
    if (wanted_) throw Rcpp::internal::InterruptedException();
  }

 private:
  static void ask(void*) { R_CheckUserInterrupt(); }

  std::thread::id own_ = std::this_thread::get_id();
  std::atomic<bool> wanted_{false};
};

}  // namespace backfill

#endif
