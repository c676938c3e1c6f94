#include <cstddef>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <string_view>

#include "readers.hpp"

namespace {

const lattice::fuzz::Reader* chosen = nullptr;

}  // namespace

/// Chooses the reader that LATTICE_READER names.
extern "C" int LLVMFuzzerInitialize(int*, char***) {
  const char* const name = std::getenv("LATTICE_READER");
  for (const lattice::fuzz::Reader& reader : lattice::fuzz::readers()) {
    if (name != nullptr && reader.name == name) chosen = &reader;
  }
  if (chosen != nullptr) return 0;
  std::fputs("LATTICE_READER names none of the readers:", stderr);
  for (const lattice::fuzz::Reader& reader : lattice::fuzz::readers())
    std::fprintf(stderr, " %s", reader.name.data());
  std::fputs("\n", stderr);
  std::exit(2);
}

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
  lattice::fuzz::give(*chosen, {reinterpret_cast<const char*>(bytes), size});
  return 0;
}
