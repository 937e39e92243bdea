//! Stock files, and stocks of one's own: a stock with what was tuned on a frame as its own values.

use crate::development::Development;
use crate::error::CoreError;
use crate::stations;
use crate::stock::Stock;
use crate::text::slug;

/// What a person calls a stock of theirs.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct StockName {
    /// What people call it.
    pub name: String,
    /// Where it stands on the board.
    pub family: String,
    /// What there is to know of it.
    pub notes: String,
}

impl StockName {
    /// An id made from the name: lower-case letters, digits and hyphens.
    pub fn id(&self) -> String {
        slug(&self.name, "stock")
    }
}

impl Stock {
    /// Reads and checks a stock file. The error names the line or the field that is wrong.
    pub fn from_json(text: &str) -> Result<Self, CoreError> {
        let stock = Self::of_data(text)?;
        stock.check_own()?;
        Ok(stock)
    }

    /// Its own values: each of a control, within its range.
    fn check_own(&self) -> Result<(), CoreError> {
        let wrong = |why: String| CoreError::StockFile { why };
        for (id, value) in &self.own {
            let control = stations::find(id).map_err(|_| wrong(format!("own: there is no control called '{id}'")))?;
            control.check(value).map_err(|e| wrong(format!("own, {id}: {e}")))?;
        }
        Ok(())
    }

    /// This stock under another name.
    pub fn renamed(&self, id: &str, called: &StockName) -> Result<Stock, CoreError> {
        let notes = called.notes.trim();
        let stock = Stock {
            id: id.into(),
            name: Some(called.name.trim().into()),
            family: called.family.trim().into(),
            notes: (!notes.is_empty()).then(|| notes.into()),
            ..self.clone()
        };
        stock.check()?;
        Ok(stock)
    }

    /// This stock with the values that a development tuned as own ones; what belongs to the one picture is left out.
    pub fn kept(&self, development: &Development, id: &str, called: &StockName) -> Result<Stock, CoreError> {
        let mut stock = self.renamed(id, called)?;
        for (control, value) in &development.values {
            if !stations::find(control)?.picture_specific {
                stock.own.insert(control.clone(), value.clone());
            }
        }
        // what is off is off in the stock too: it has no lamps
        let in_force = development.values(self);
        let off = stations::all().filter(|c| !c.picture_specific && in_force.is_off(c));
        stock.own.extend(off.map(|c| (c.id.to_owned(), c.at_rest(self))));
        stock.check()?;
        stock.check_own()?;
        Ok(stock)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::controls::Value;
    use crate::stock::Catalogue;

    fn called(name: &str) -> StockName {
        StockName { name: name.into(), family: "mine".into(), notes: String::new() }
    }

    #[test]
    fn what_was_tuned_becomes_its_own() {
        let plover = Catalogue::first();
        let mut development = Development::new(&plover);
        for (id, v) in [("scene.exposure", 0.5), ("film.grain.granularity", 21.0), ("film.push", 1.0)] {
            development.set(&plover, id, Value::Number(v)).unwrap();
        }
        let kept = plover.kept(&development, "dusk", &called("Dusk")).unwrap();
        let own = |id: &str| stations::find(id).unwrap().own_value(&kept);
        assert_eq!(own("film.grain.granularity"), Value::Number(21.0));
        assert_eq!(own("film.push"), Value::Number(1.0));
        assert_eq!(own("scene.exposure"), Value::Number(0.0), "exposure is the picture's");
        assert_eq!(Stock::from_json(&kept.to_json()).unwrap(), kept);
    }

    #[test]
    fn ids_come_from_names() {
        assert_eq!(called("  Été, No. 7 ").id(), "t-no-7");
        assert_eq!(called("夏").id(), "stock");
        assert!(Catalogue::first().renamed("x", &called(&"n".repeat(80))).is_err());
    }

    /// A stock has no lamps: what was off when it was kept is at rest in it, whatever was tuned there.
    #[test]
    fn what_is_off_is_not_kept() {
        let plover = Catalogue::first();
        let mut development = Development::new(&plover);
        development.set(&plover, "film.grain.granularity", Value::Number(21.0)).unwrap();
        development.set(&plover, "lens.bloom.strength", Value::Number(0.4)).unwrap();
        development.switch("film.grain", false).unwrap();
        let kept = plover.kept(&development, "calm", &called("Calm")).unwrap();
        assert_eq!(kept.own["film.grain.granularity"], Value::Number(0.0));
        assert_eq!(kept.own["lens.bloom.strength"], Value::Number(0.4));
    }
}
