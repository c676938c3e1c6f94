#include <fcntl.h>
#include <unistd.h>

#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <exception>
#include <iostream>
#include <string_view>

#include "files/unfinished.hpp"
#include "tools/commands.hpp"
#include "tools/interrupt.hpp"
#include "tools/outlet.hpp"

namespace {

using lattice::tools::Exit;

bool colour_is_welcome() {
  const char* const no_color = std::getenv("NO_COLOR");
  const char* const terminal = std::getenv("TERM");
  const bool refused = no_color != nullptr && *no_color != '\0';
  const bool plain = terminal == nullptr || std::string_view(terminal) == "dumb";
  return isatty(STDOUT_FILENO) != 0 && !refused && !plain;
}

/// Where the input or an output of the program was closed, a file that is opened would take its
/// place, and what is printed would end up in there. So something that cannot be written takes it.
void fill_closed_places() {
  for (int place = open("/dev/null", O_RDONLY); place >= 0; place = dup(place)) {
    if (place <= STDERR_FILENO) continue;
    close(place);
    return;
  }
}

/// The last word, where there is no memory left to put one together.
void say(std::string_view sentence) {
  [[maybe_unused]] const ssize_t ignored = write(STDERR_FILENO, sentence.data(), sentence.size());
}

[[noreturn]] void give_up() {
  lattice::take_unfinished_away();
  say("the program cannot go on: there is not enough memory, or a fault of ours\n");
  _exit(static_cast<int>(Exit::our_fault));
}

}  // namespace

int main(int count, char** arguments) {
  using lattice::tools::Console;
  using lattice::tools::Outlet;
  std::set_terminate(give_up);
  fill_closed_places();
  lattice::tools::handle_signals();
  Outlet outlet(STDOUT_FILENO);
  std::ostream out(&outlet);
  Console console{.out = out,
                  .err = std::cerr,
                  .style = {.colour = colour_is_welcome()},
                  .err_is_terminal = isatty(STDERR_FILENO) != 0};
  Exit exit = lattice::tools::run({arguments + 1, arguments + count}, console);
  out.flush();
  // Who reads no further has seen enough.
  if (outlet.problem() != 0 && outlet.problem() != EPIPE) {
    const bool is_closed = outlet.problem() == EBADF;
    say("the output could not be written: ");
    say(is_closed ? "it is closed" : std::strerror(outlet.problem()));
    say("\n");
    exit = Exit::bad_input;
  }
  return static_cast<int>(exit);
}
