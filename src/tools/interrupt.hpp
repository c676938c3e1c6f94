#pragma once

namespace lattice::tools {

/// While one of these lives, Ctrl-C (SIGINT), SIGTERM, SIGHUP and SIGXCPU, which says that the time
/// for it is used up, are noted and the program goes on, to end in order; a second one ends it at
/// once, but for SIGXCPU.
class Interrupt {
 public:
  Interrupt();
  Interrupt(const Interrupt&) = delete;
  Interrupt& operator=(const Interrupt&) = delete;
  ~Interrupt();

  /// True after one of these signals.
  [[nodiscard]] static bool asked();

  /// True when it was one after which nothing is waited for: not Ctrl-C.
  [[nodiscard]] static bool asked_for_good();
};

/// Sets up what these signals do: they end the program, and nothing is left half written. A signal
/// that is ignored, as `nohup` has it, stays so. A pipe that nobody reads any more and a file that
/// has become as large as it may be end nothing: writing fails.
void handle_signals();

}  // namespace lattice::tools
