//! What distinguishes two versions of a file without reading them.

use std::time::Duration;

/// A file changed less than this long before it was read may change again under the same stamp.
const YOUNG: Duration = Duration::from_secs(2);

/// What distinguishes two versions of a file without reading them.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub struct Stamp {
    /// Length in bytes.
    pub length: u64,
    /// Device and inode.
    pub node: (u64, u64),
    /// Last change of the content, in ns since the Unix epoch.
    pub modified: i128,
    /// Last change of the inode, too.
    pub changed: i128,
}

impl Stamp {
    /// Whether what has it was changed so shortly before `now`, in ns since the Unix epoch, that it may change again and
    /// keep it.
    pub fn is_young(&self, now: i128) -> bool {
        now - self.modified.max(self.changed) < i128::try_from(YOUNG.as_nanos()).unwrap_or(0)
    }
}
