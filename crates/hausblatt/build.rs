//! Tells Cargo that the program embeds the demo site.

fn main() {
    println!("cargo::rerun-if-changed=../../demo");
}
