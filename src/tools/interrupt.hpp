#pragma once

namespace lattice::tools {

/// While an object lives, Ctrl-C (SIGINT), SIGTERM, SIGHUP and SIGXCPU (a limit of processor time
/// is reached) are only recorded, so that the program can end cleanly; a second signal ends it at
/// once, except SIGXCPU.
class Interrupt {
 public:
  Interrupt();
  Interrupt(const Interrupt&) = delete;
  Interrupt& operator=(const Interrupt&) = delete;
  ~Interrupt();

  /// Whether one of these signals has arrived.
  [[nodiscard]] static bool asked();

  /// Whether it was one that leaves no time to wait: any except Ctrl-C.
  [[nodiscard]] static bool asked_for_good();
};

/// Installs the signal handlers: these signals end the program without half-written files. A signal
/// that is ignored, as with `nohup`, stays ignored. A closed pipe and a file at its size limit do
/// not end the program: writing fails instead.
void handle_signals();

}  // namespace lattice::tools
