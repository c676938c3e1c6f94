#pragma once

namespace lattice::tools {

/// While one of these lives, Ctrl-C is noted and the program goes on; pressed a second time it ends
/// the program.
class Interrupt {
 public:
  Interrupt();
  Interrupt(const Interrupt&) = delete;
  Interrupt& operator=(const Interrupt&) = delete;
  ~Interrupt();

  /// True after Ctrl-C.
  [[nodiscard]] static bool asked();

 private:
  void (*before_)(int);
};

}  // namespace lattice::tools
