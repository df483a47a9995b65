//! The examples for programs of one's own, run as they are.

#[path = "../../examples/explain.rs"]
mod explain;
#[path = "../../examples/in_memory.rs"]
mod in_memory;
#[path = "../../examples/own_check.rs"]
mod own_check;

#[test]
fn a_site_in_memory_is_rendered() {
    in_memory::main().unwrap();
}

#[test]
fn an_address_is_explained() {
    explain::main().unwrap();
}

#[test]
fn a_check_of_ones_own_finds_long_titles() {
    own_check::main().unwrap();
}
