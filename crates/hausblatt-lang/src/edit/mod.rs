//! Files as they are written: what can be cut out of them, where their slots are, how they are written neatly.

pub mod cut;
pub mod neat;
pub mod outline;
pub mod quotes;
pub mod slots;
