//! The checks that have a file of their own: code, words, what is looked at, tests.

pub mod absent_value;
pub mod attribute_twice;
pub mod bad_drawing;
pub mod bad_image;
pub mod bad_json;
pub mod bad_json_script;
pub mod bad_markup;
pub mod bad_scripts;
pub mod bad_styles;
pub mod bad_xml;
pub mod blank_page;
pub mod broken_anchor;
pub mod broken_link;
pub mod broken_menu_item;
pub mod dead_file;
pub mod document_twice;
pub mod dump_left_behind;
pub mod image_without_alt;
pub mod image_without_size;
pub mod label_without_field;
pub mod layout_without_robots;
pub mod layout_without_styles;
pub mod main_twice;
pub mod misnamed_template;
pub mod missing_field;
pub mod missing_file;
pub mod missing_id;
pub mod missing_slash;
pub mod moved_element;
pub mod nested_control;
pub mod no_alt;
pub mod no_charset;
pub mod no_document;
pub mod no_error_page;
pub mod no_fallback;
pub mod no_front_page;
pub mod no_language;
pub mod no_sizes;
pub mod no_source;
pub mod no_text;
pub mod no_title;
pub mod not_small;
pub mod offered_nowhere;
pub mod oversized_image;
pub mod raw_used;
pub mod repeated_id;
pub mod same_output;
pub mod search_without_field;
pub mod site_needs;
pub mod stale_copy;
pub mod stray_end;
pub mod stray_item;
pub mod unclosed_element;
pub mod unknown_attribute;
pub mod unknown_element;
pub mod unknown_theme_folder;
pub mod unknown_value;
pub mod unset_property;
pub mod unversioned_address;

use crate::check::{Check, allowed};

/// The checks that have a file of their own, by code.
pub(crate) static OWN: &[Check] = &[
    absent_value::CHECK,
    attribute_twice::CHECK,
    bad_drawing::CHECK,
    bad_image::CHECK,
    bad_json::CHECK,
    bad_json_script::CHECK,
    bad_markup::CHECK,
    bad_scripts::CHECK,
    bad_scripts::IN_PAGES,
    bad_styles::CHECK,
    bad_styles::IN_PAGES,
    bad_xml::CHECK,
    blank_page::CHECK,
    broken_anchor::CHECK,
    broken_link::CHECK,
    broken_link::IN_REDIRECTS,
    broken_menu_item::CHECK,
    dead_file::CHECK,
    document_twice::CHECK,
    dump_left_behind::CHECK,
    image_without_alt::CHECK,
    image_without_size::CHECK,
    label_without_field::CHECK,
    layout_without_robots::CHECK,
    layout_without_styles::CHECK,
    main_twice::CHECK,
    misnamed_template::CHECK,
    missing_field::CHECK,
    missing_file::CHECK,
    missing_file::IN_FILES,
    missing_file::INLINE,
    missing_id::CHECK,
    missing_slash::CHECK,
    missing_slash::IN_MENUS,
    moved_element::CHECK,
    nested_control::CHECK,
    no_alt::CHECK,
    no_charset::CHECK,
    no_document::CHECK,
    no_error_page::CHECK,
    no_fallback::CHECK,
    no_front_page::CHECK,
    no_language::CHECK,
    no_sizes::CHECK,
    no_source::CHECK,
    no_text::CHECK,
    no_title::CHECK,
    not_small::CHECK,
    offered_nowhere::CHECK,
    oversized_image::CHECK,
    raw_used::CHECK,
    repeated_id::CHECK,
    same_output::CHECK,
    search_without_field::CHECK,
    site_needs::MISSING,
    site_needs::UNDECLARED,
    site_needs::UNUSED,
    stale_copy::CHECK,
    stray_end::CHECK,
    stray_item::CHECK,
    unclosed_element::CHECK,
    unknown_attribute::CHECK,
    unknown_element::CHECK,
    unknown_theme_folder::CHECK,
    unknown_value::CHECK,
    unset_property::CHECK,
    unset_property::IN_PAGES,
    unversioned_address::CHECK,
    unversioned_address::IN_PAGES,
    allowed::UNKNOWN,
    allowed::UNUSED,
];
