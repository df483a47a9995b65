//! Menus: those that are declared, or else the pages.

use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};
use hausblatt_lang::value::EscapedText;

use crate::model::content::ContentId;
use crate::model::site::Site;
use crate::model::site::references::dead;
use crate::schema::config::MenuConfig;

/// An item of a menu.
#[derive(Clone, Debug)]
pub struct MenuItem {
    /// Where it leads.
    pub address: EscapedText,
    /// What it is called.
    pub label: EscapedText,
    /// The items below it.
    pub children: Vec<MenuItem>,
}

impl Site {
    /// The menus by name.
    pub(super) fn make_menus(&self, problems: &mut Vec<Diagnostic>) -> Vec<(String, Vec<MenuItem>)> {
        let declared = self.config.menus.iter();
        let mut menus: Vec<(String, Vec<MenuItem>)> =
            declared.map(|(name, items)| (name.clone(), self.declared_items(items, problems))).collect();
        if self.config.menus.is_empty() {
            menus.push(("main".to_owned(), self.page_items(&self.top)));
        }
        menus
    }

    fn declared_items(&self, items: &[MenuConfig], problems: &mut Vec<Diagnostic>) -> Vec<MenuItem> {
        items.iter().filter_map(|item| self.declared_item(item, problems)).collect()
    }

    fn declared_item(&self, item: &MenuConfig, problems: &mut Vec<Diagnostic>) -> Option<MenuItem> {
        let text = &item.to.text;
        let children = self.declared_items(&item.children, problems);
        let is_address = text.starts_with('/') || text.contains("://") || text.starts_with("mailto:");
        let found = self.referenced(text);
        let address = match &found {
            _ if is_address => Some(text.clone()),
            Some(found) => found.address.clone(),
            None => None,
        };
        let Some(address) = address else {
            let mut diagnostic = dead(text, self.nearest_reference(text));
            // What is only a draft, or waits, or is empty today, must not keep the rest from being built.
            if found.is_some() {
                diagnostic.severity = Severity::Warning;
            }
            problems.push(diagnostic.at(&self.config.path, item.to.span));
            return None;
        };
        let label = item.label.clone().or_else(|| found.map(|found| found.label.to_owned()));
        let label = label.as_deref().unwrap_or(&address).into();
        Some(MenuItem { label, address: address.as_str().into(), children })
    }

    fn page_items(&self, pages: &[ContentId]) -> Vec<MenuItem> {
        let listed = pages.iter().map(|&id| self.content(id)).filter(|page| page.is_live() && page.in_lists);
        listed
            .filter_map(|page| {
                let address = page.address.as_deref()?.into();
                Some(MenuItem { address, label: page.title.clone(), children: self.page_items(&page.children) })
            })
            .collect()
    }
}
