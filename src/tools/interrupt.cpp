#include "tools/interrupt.hpp"

#include <array>
#include <atomic>
#include <csignal>

#include "files/unfinished.hpp"

namespace lattice::tools {
namespace {

constinit std::atomic<int> waiting = 0;  ///< how many Interrupts live
volatile std::sig_atomic_t noted = 0;    ///< the signal that came

void hear(int signal) {
  // It comes again every second until the last of the time is used up.
  if (signal == SIGXCPU && noted != 0) return;
  if (waiting.load() > 0 && noted == 0) {
    noted = signal;
    return;
  }
  take_unfinished_away();
  std::signal(signal, SIG_DFL);
  std::raise(signal);
}

}  // namespace

Interrupt::Interrupt() {
  noted = 0;
  ++waiting;
}

Interrupt::~Interrupt() {
  --waiting;
}

bool Interrupt::asked() {
  return noted != 0;
}

bool Interrupt::asked_for_good() {
  return noted == SIGTERM || noted == SIGHUP || noted == SIGXCPU;
}

void handle_signals() {
  for (const int signal : std::array{SIGINT, SIGTERM, SIGHUP, SIGXCPU}) {
    struct sigaction before {};
    sigaction(signal, nullptr, &before);
    if (before.sa_handler == SIG_IGN) continue;
    struct sigaction action {};
    action.sa_handler = hear;
    action.sa_flags = SA_RESTART;
    sigaction(signal, &action, nullptr);
  }
  // A write that fails for these says so, and what was learnt can be saved elsewhere.
  std::signal(SIGPIPE, SIG_IGN);
  std::signal(SIGXFSZ, SIG_IGN);
}

}  // namespace lattice::tools
