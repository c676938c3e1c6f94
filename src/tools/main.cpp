#include <unistd.h>

#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <iostream>
#include <string_view>

#include "tools/commands.hpp"

namespace {

bool colour_is_welcome() {
  const char* const no_color = std::getenv("NO_COLOR");
  const char* const terminal = std::getenv("TERM");
  const bool refused = no_color != nullptr && *no_color != '\0';
  const bool plain = terminal == nullptr || std::string_view(terminal) == "dumb";
  return isatty(STDOUT_FILENO) != 0 && !refused && !plain;
}

}  // namespace

int main(int count, char** arguments) {
  using lattice::tools::Console;
  using lattice::tools::Exit;
  Console console{.out = std::cout,
                  .err = std::cerr,
                  .style = {.colour = colour_is_welcome()},
                  .err_is_terminal = isatty(STDERR_FILENO) != 0};
  Exit exit = lattice::tools::run({arguments + 1, arguments + count}, console);
  errno = 0;
  std::cout.flush();
  if (!std::cout) {
    std::cerr << "the output could not be written: " << std::strerror(errno) << "\n";
    exit = Exit::our_fault;
  }
  return static_cast<int>(exit);
}
