//! What the columns of a kind say of their values, for every record of it.

use super::{Column, Input, record::Record};
use crate::{Plan, Refusal, rules::grouped, words::NOT_KEPT};
use rust_decimal::Decimal;

/// Holds a record to its columns, wherever it comes from: numbers lie within their bounds, so that
/// no sum of them is too large, and texts hold no character that cannot be kept.
pub(super) fn within_columns<R: Record>(record: &R, plan: &Plan) -> Result<(), Refusal> {
    for Column { spec, access } in R::COLUMNS {
        let wrong = match spec.input {
            Input::Line | Input::File | Input::Used | Input::Words | Input::Whom => {
                (access.write)(record, plan).contains('\0').then(|| format!("This {NOT_KEPT}."))
            }
            _ => spec.bounds.and_then(|(least, most)| {
                let value: Decimal = (access.write)(record, plan).parse().ok()?;
                let within = (Decimal::from(least)..=Decimal::from(most)).contains(&value);
                (!within).then(|| format!("Write a number from {} to {}.", grouped(least.into()), grouped(most.into())))
            }),
        };
        if let Some(message) = wrong {
            return Err(Refusal::value(spec.name, message));
        }
    }
    Ok(())
}
