#pragma once

#include <string>
#include <string_view>

namespace lattice {

/// A library of the system that is loaded when it is first needed, and stays. Those for
/// spreadsheets and for the watch page bring a dozen others along, and would take most of the time
/// in which the command starts.
class LoadedLibrary {
 public:
  /// @param file its file, by the name with its version: `libxlsxwriter.so.4`
  /// @param needed_for for a message: `a spreadsheet`
  /// @throws ProgramError where the system does not have it.
  LoadedLibrary(const std::string& file, std::string_view needed_for);

  /// A function that was found, for a pointer of its type.
  class Found {
   public:
    explicit Found(void* address) : address_(address) {}

    template <class Function>
    operator Function*() const {
      return reinterpret_cast<Function*>(address_);
    }

   private:
    void* address_;
  };

  /// Finds a function of it: `decltype(&::floor) floor = library.find("floor");`
  /// @throws ProgramError where it has no such function.
  [[nodiscard]] Found find(const char* name) const;

 private:
  std::string file_;
  void* handle_;
};

}  // namespace lattice
