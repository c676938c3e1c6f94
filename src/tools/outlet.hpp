#pragma once

#include <array>
#include <streambuf>

namespace lattice::tools {

/// A stream buffer over an open file descriptor that remembers why writing failed.
class Outlet : public std::streambuf {
 public:
  explicit Outlet(int file) : file_(file) { setp(buffer_.data(), buffer_.data() + buffer_.size()); }

  /// The `errno` of the first failed write, or 0.
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
