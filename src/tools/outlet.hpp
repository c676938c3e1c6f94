#pragma once

#include <array>
#include <streambuf>

namespace lattice::tools {

/// What is written to an open file, for a stream. It remembers why writing failed.
class Outlet : public std::streambuf {
 public:
  explicit Outlet(int file) : file_(file) { setp(buffer_.data(), buffer_.data() + buffer_.size()); }

  /// Why something could not be written, as `errno` has it; 0 while all went well.
  [[nodiscard]] int problem() const { return problem_; }

 protected:
  int_type overflow(int_type letter) override;
  int sync() override;

 private:
  bool hand_over();

  int file_;
  int problem_ = 0;
  std::array<char, 1U << 14U> buffer_;
};

}  // namespace lattice::tools
