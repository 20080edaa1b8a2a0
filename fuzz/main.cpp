// One fuzzer: the target that FUZZ_TARGET names, under libFuzzer.

#include "targets.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const auto run = [] {
        for (const auto& target : undershelf::fuzz::targets()) {
            if (target.name == FUZZ_TARGET) return target.run;
        }
        __builtin_trap();
    }();
    run({data, size});
    return 0;
}
