// Lesson 13: a convolution by hand.
//
// A kernel goes over a picture: at each place it multiplies what it meets, number by number, and
// adds up. Four loops are all there is to it. Here they are, beside the engine's convolution; and
// the two ways back: to the kernel, which gets what it met times what came back, and to the
// picture, over which the kernel goes once more, turned by half. With the name of a folder, all of
// it is put there as a page.

#include <fmt/core.h>

#include <filesystem>

#include "lattice/lattice.hpp"
#include "lattice/show/page.hpp"
#include "lattice/show/picture_grid.hpp"

using namespace lattice;

namespace {

/// [row × column] ∗ [row × column]: a number for each place at which the kernel fits.
Tensor convolved(const Tensor& picture, const Tensor& kernel) {
  const std::int64_t rows = picture.shape()[0] - kernel.shape()[0] + 1;
  const std::int64_t columns = picture.shape()[1] - kernel.shape()[1] + 1;
  Tensor result = zeros({rows, columns});
  for (std::int64_t row = 0; row < rows; ++row) {
    for (std::int64_t column = 0; column < columns; ++column) {
      double sum = 0.0;
      for (std::int64_t down = 0; down < kernel.shape()[0]; ++down) {
        for (std::int64_t across = 0; across < kernel.shape()[1]; ++across)
          sum += picture.at({row + down, column + across}) * kernel.at({down, across});
      }
      result.set({row, column}, sum);
    }
  }
  return result;
}

/// The kernel with its last number first.
Tensor turned_by_half(const Tensor& kernel) {
  Tensor turned = kernel;
  const Shape& shape = kernel.shape();
  for (std::int64_t at = 0; at < kernel.count(); ++at)
    turned.set(shape.index(kernel.count() - 1 - at), kernel.at_offset(at));
  return turned;
}

/// So many rows and columns of zeros around.
Tensor framed(const Tensor& picture, std::int64_t width) {
  return pad(pad(picture, 0, {.before = width, .after = width}), 1,
             {.before = width, .after = width});
}

}  // namespace

int main(int count, char** arguments) {
  const Dataset stamps = demo_set("stamps", 20, 1);
  const Tensor picture =
      reshape(stamps.features.all(), {20, 144}).rows(std::vector<std::int64_t>{9});
  const Tensor x = reshape(picture, {12, 12}) / 255.0;
  const Tensor edge = tensor({{1, 0, -1}, {2, 0, -2}, {1, 0, -1}});  // bright on the left

  Worksheet sheet;
  const Tensor minibatch =
      reshape(x, {1, 12, 12, 1}).with({Role::example, Role::row, Role::column, Role::channel});
  const Line on_sheet = sheet.asked("x", minibatch);
  const Line kernel = sheet.weight("edge", reshape(edge, {3, 3, 1, 1}));
  const Line z = named("z", convolution(on_sheet, kernel));
  const Line cost = named("cost", 0.5 * sum(square(z)));
  const Gradients gradients = reverse_sweep(cost);

  const Tensor by_hand = convolved(x, edge);
  const auto as_picture = [](const Tensor& numbers) {
    return reshape(numbers, {numbers.shape()[0], numbers.shape()[1], 1});
  };
  fmt::print("{}\n", show_pictures({{.picture = as_picture(4.0 * x), .caption = "a wave"},
                                    {.picture = as_picture(by_hand + 2.0), .caption = "its edges"}},
                                   {}, {.black = 0.0, .white = 4.0}));
  fmt::print("{}\n\n", explain(z, {0, 4, 5, 0}));

  // Back: what arrives at z is z itself, for half its square.
  const Tensor to_kernel = convolved(x, by_hand);
  const Tensor to_picture = convolved(framed(by_hand, 2), turned_by_half(edge));
  const auto apart = [](const Tensor& a, const Tensor& b) {
    return distance(reshape(a, b.shape()), b).largest;
  };
  fmt::print("by hand and by the engine, apart by at most\n");
  fmt::print("the convolution             {:.1e}\n", apart(by_hand, z.value()));
  fmt::print("the gradient of the kernel  {:.1e}\n", apart(to_kernel, gradients["edge"]));
  fmt::print("the gradient of the picture {:.1e}\n", apart(to_picture, gradients["x"]));

  if (count < 2) return 0;
  write_page(std::filesystem::path(arguments[1]) / "a_convolution_by_hand.html",
             work_sheet(std::move(sheet), cost,
                        {.title = "A convolution by hand", .rule = Descent{.rate = 0.01}}));
}
