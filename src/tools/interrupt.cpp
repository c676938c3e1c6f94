#include "tools/interrupt.hpp"

#include <csignal>

namespace lattice::tools {
namespace {

volatile std::sig_atomic_t was_asked = 0;

void note(int signal) {
  was_asked = 1;
  std::signal(signal, SIG_DFL);
}

}  // namespace

Interrupt::Interrupt() : before_(std::signal(SIGINT, note)) {
  was_asked = 0;
}

Interrupt::~Interrupt() {
  std::signal(SIGINT, before_);
}

bool Interrupt::asked() {
  return was_asked != 0;
}

}  // namespace lattice::tools
