#include "tools/outlet.hpp"

#include <unistd.h>

#include <cerrno>

namespace lattice::tools {

/// Writes what has gathered. After a failure nothing more is written: half of the rest would be
/// worse than none.
bool Outlet::hand_over() {
  for (const char* from = pbase(); from != pptr() && problem_ == 0;) {
    const ssize_t count = ::write(file_, from, static_cast<std::size_t>(pptr() - from));
    if (count >= 0) {
      from += count;
    } else if (errno != EINTR) {
      problem_ = errno;
    }
  }
  setp(buffer_.data(), buffer_.data() + buffer_.size());
  return problem_ == 0;
}

Outlet::int_type Outlet::overflow(int_type letter) {
  if (!hand_over()) return traits_type::eof();
  if (!traits_type::eq_int_type(letter, traits_type::eof()))
    sputc(traits_type::to_char_type(letter));
  return traits_type::not_eof(letter);
}

int Outlet::sync() {
  return hand_over() ? 0 : -1;
}

}  // namespace lattice::tools
