"""Machine code of passes: made of LLVM's text by any process, loaded in the one that runs it."""

from __future__ import annotations

import threading

import llvmlite.binding as llvm

_ready = threading.Lock()


def _target(quick: bool) -> llvm.TargetMachine:
    with _ready:
        llvm.initialize_native_target()
        llvm.initialize_native_asmprinter()
    return llvm.Target.from_default_triple().create_target_machine(
        cpu=llvm.get_host_cpu_name(), features=llvm.get_host_cpu_features().flatten(), opt=0 if quick else 2
    )


def machine_code(text: str, quick: bool) -> bytes:
    """An object file for this machine. `quick` skips most optimisation. Raises RuntimeError where the text is no module."""
    machine = _target(quick)
    module = llvm.parse_assembly(text)
    module.verify()
    options = llvm.create_pipeline_tuning_options(speed_level=0 if quick else 2)
    builder = llvm.create_pass_builder(machine, options)
    builder.getModulePassManager().run(module, builder)
    return bytes(machine.emit_object(module))


class Loaded:
    """Machine code in memory, ready to be called as long as this is held. `address`: of its function `kernel`."""

    def __init__(self, code: bytes) -> None:
        self._engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), _target(True))
        self._engine.add_object_file(llvm.ObjectFileRef.from_data(code))
        self._engine.finalize_object()
        self.address = self._engine.get_function_address("kernel")
