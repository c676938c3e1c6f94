#include "files/loaded_library.hpp"

#include <dlfcn.h>
#include <fmt/format.h>

#include "lattice/text/error.hpp"

namespace lattice {

LoadedLibrary::LoadedLibrary(const std::string& file, std::string_view needed_for)
    : file_(file), handle_(dlopen(file.c_str(), RTLD_NOW | RTLD_LOCAL)) {
  if (handle_ != nullptr) return;
  const char* const why = dlerror();
  throw ProgramError({.what = fmt::format("a library that {} needs cannot be loaded", needed_for),
                      .expected = file,
                      .found = why == nullptr ? "" : why,
                      .remedy = "install the package that has it"});
}

LoadedLibrary::Found LoadedLibrary::find(const char* name) const {
  if (void* const found = dlsym(handle_, name)) return Found(found);
  throw ProgramError({.what = fmt::format("{} has no function {}", file_, name),
                      .expected = "the version that this program was built for",
                      .remedy = "install that version, or build this program anew"});
}

}  // namespace lattice
