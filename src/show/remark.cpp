#include "lattice/show/remark.hpp"

#include "lattice/text/letters.hpp"
#include "lattice/text/wrapping.hpp"
#include "show/ink.hpp"

namespace lattice {

std::string show_remark(const Remark& remark, const TerminalStyle& style) {
  const std::string code = harmless(remark.code);
  std::string text = paragraph(code + ": " + harmless(remark.text), style.width);
  text.replace(0, code.size(), in_ink(ink::noticed, code, style));
  if (!remark.remedy.empty()) text += "  try: " + harmless(remark.remedy) + "\n";
  return text;
}

}  // namespace lattice
