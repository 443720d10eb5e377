//! What wiring may speak of: the kinds of part with their settings, commands and signals, as data for checkers, editors and
//! pages.
//!
//! ```
//! use stoicheon::catalogue::Catalogue;
//!
//! let catalogue = Catalogue::built_in();
//! assert!(catalogue.part("door").is_some());
//! ```

pub use stoicheon_core::{
    Catalogue, CommandInfo, MessageInfo, ParamInfo, PartInfo, RoleInfo, SettingInfo, SettingInfoType,
    VariableInfo,
};
