//! Functions.

use stoicheon_core::{Arithmetic, Expr, Function, Step, Type};

use super::{Cx, Resolver, Ty, Typed, Which, expr::as_number, typed};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, ExprKind, Literal, Name},
    source::Span,
    suggest::nearest,
};

/// Functions that are not of numbers alone.
const OTHERS: [&str; 6] = ["distance", "direction", "middle", "steps_between", "random", "count"];

const CELL_LOOP: &str = "`for each column, row in neighbours(garden, 3, 4) { … }`, or `… in range(garden, 3, 4, 2)` for all within 2 steps";

/// How many operands a function takes, at the least and at the most.
fn operands(function: Function) -> (usize, usize) {
    match function {
        Function::Min | Function::Max => (2, 16),
        Function::Clamp | Function::Lerp => (3, 3),
        Function::Remainder => (2, 2),
        _ => (1, 1),
    }
}

impl Resolver<'_, '_> {
    pub(super) fn call(
        &mut self,
        name: &Name,
        args: &[model::Expr],
        span: Span,
        want: Option<&Type>,
        cx: &Cx<'_>,
    ) -> Option<Typed> {
        match name.text.as_str() {
            "distance" => {
                self.count_args(name, args, (2, 2), span)?;
                let [one, two] = [0, 1].map(|index| {
                    let found = self.expr(&args[index], None, cx)?;
                    self.somewhere(found, args[index].span)
                });
                return typed(Ty::NUMBER, Expr::Distance(Box::new(one?), Box::new(two?)));
            }
            "direction" => {
                self.count_args(name, args, (2, 2), span)?;
                let [one, two] = [0, 1].map(|index| {
                    let found = self.expr(&args[index], None, cx)?;
                    self.somewhere(found, args[index].span)
                });
                return typed(Ty::VECTOR, Expr::Direction(Box::new(one?), Box::new(two?)));
            }
            "middle" => {
                self.count_args(name, args, (3, 3), span)?;
                let parts = self.cell_args(args, cx)?;
                return typed(Ty::VECTOR, Expr::Middle(Box::new(parts.try_into().ok()?)));
            }
            "steps_between" => {
                self.count_args(name, args, (5, 5), span)?;
                let parts = self.cell_args(args, cx)?;
                return typed(Ty::WHOLE, Expr::CellSteps(Box::new(parts.try_into().ok()?)));
            }
            "random" => return self.random(name, args, span, cx),
            "neighbours" | "range" => {
                let message = format!("`{}` gives cells, which only a loop can use", name.text);
                self.wrong(Diagnostic::error(Code::WrongType, message).at(span, "no value").help(CELL_LOOP));
                return None;
            }
            _ => {}
        }
        let Some(function) = Function::ALL.into_iter().find(|function| function.word() == name.text) else {
            let known = Function::ALL.into_iter().map(Function::word).chain(OTHERS);
            let help = self.report.suggest(&name.text, "function", known);
            self.wrong(
                Diagnostic::error(Code::UnknownFunction, format!("there is no function `{}`", name.text))
                    .at(name.span, "expected a function")
                    .help(help),
            );
            return None;
        };
        self.count_args(name, args, operands(function), span)?;
        let found: Vec<_> = args.iter().map(|arg| self.expr(arg, want, cx)).collect();
        let found = found.into_iter().collect::<Option<Vec<_>>>()?;
        self.function(function, found, args)
    }

    /// `for each column, row in neighbours(garden, 3, 4) { … }`
    pub(super) fn for_each_cell(
        &mut self,
        names: [&Name; 2],
        cells: &Name,
        of: &[model::Expr],
        body: &[model::Statement],
        cx: &mut Cx<'_>,
    ) -> Option<Step> {
        let count = match cells.text.as_str() {
            "neighbours" => Some(3),
            "range" => Some(4),
            other => {
                let near = nearest(other, ["neighbours", "range"].into_iter());
                let help = near.map_or(CELL_LOOP.into(), |near| format!("did you mean `{near}`?"));
                let message = format!("expected `neighbours` or `range`, found `{other}`");
                self.wrong(
                    Diagnostic::error(Code::UnknownFunction, message)
                        .at(cells.span, "expected cells")
                        .help(help),
                );
                None
            }
        };
        let parts = count.and_then(|count| {
            self.count_args(cells, of, (count, count), cells.span)?;
            self.cell_args(of, cx)
        });
        if names[0].text == names[1].text {
            let message = format!("the column and the row are both called `{}`", names[1].text);
            self.wrong(
                Diagnostic::error(Code::NameTaken, message)
                    .at(names[1].span, "the second one")
                    .at(names[0].span, "the first one"),
            );
        }
        let kept = cx.locals.len();
        let locals = names.map(|name| self.keep(name, Ty::WHOLE, cx));
        let steps = self.statements(body, cx);
        cx.locals.truncate(kept);
        let mut parts = parts?.into_iter();
        let [object, column, row] = [parts.next()?, parts.next()?, parts.next()?];
        let locals = [locals[0]?, locals[1]?];
        Some(Step::ForEachCell { object, column, row, within: parts.next(), locals, steps })
    }

    fn function(&mut self, function: Function, found: Vec<Typed>, args: &[model::Expr]) -> Option<Typed> {
        let numbers = |found: &[Typed]| found.iter().position(|one| !one.ty.is_number());
        let all_whole = found.iter().all(|one| one.ty == Ty::WHOLE);
        let all_spans = found.iter().all(|one| one.ty == Ty::DURATION);
        let (ty, wrong) = match function {
            Function::Min | Function::Max | Function::Clamp if all_spans => (Ty::DURATION, None),
            Function::Min | Function::Max | Function::Clamp | Function::Abs | Function::Remainder => {
                (if all_whole { Ty::WHOLE } else { Ty::NUMBER }, numbers(&found))
            }
            Function::Lerp => {
                let blends = matches!(&found[0].ty, Ty::Plain(Type::Vector | Type::Rotation | Type::Colour));
                if blends && found[0].ty == found[1].ty {
                    (found[0].ty.clone(), numbers(&found[2..]).map(|at| at + 2))
                } else {
                    (Ty::NUMBER, numbers(&found))
                }
            }
            Function::Round | Function::Floor | Function::Ceil => (Ty::WHOLE, numbers(&found)),
            Function::Number => (Ty::NUMBER, numbers(&found)),
            Function::Length => {
                let vector = found[0].ty == Ty::VECTOR;
                (Ty::NUMBER, (!vector).then_some(0))
            }
            _ => (Ty::NUMBER, numbers(&found)),
        };
        if let Some(at) = wrong {
            let needed = if function == Function::Length { Ty::VECTOR } else { Ty::NUMBER };
            let message = format!("`{}` takes {}, found {}", function.word(), needed.a(), found[at].ty.a());
            let label = found[at].ty.a();
            self.wrong(Diagnostic::error(Code::WrongType, message).at(args[at].span, label));
            return None;
        }
        let mixed = ty == Ty::NUMBER && function != Function::Length;
        let exprs = found.into_iter().map(|one| match one.ty {
            Ty::Plain(Type::Whole) if mixed => as_number(one.expr),
            _ => one.expr,
        });
        typed(ty, Expr::Call(function, exprs.collect()))
    }

    /// An object with a grid, and the numbers of cells.
    fn cell_args(&mut self, args: &[model::Expr], cx: &Cx<'_>) -> Option<Vec<Expr>> {
        let (grid, numbers) = args.split_first()?;
        let object = self.one_object(grid, cx);
        if let Some((Which::One(one), _)) = &object {
            let known = &self.names.objects[*one];
            let cells =
                known.parts.iter().any(|(part, info)| super::words::Listed::of(info, part).has_flag("cells"));
            if !cells {
                let message = format!("`{}` has no cells", known.name);
                self.wrong(
                    Diagnostic::error(Code::UnknownPart, message)
                        .at(grid.span, "expected an object with cells")
                        .help("cells are given with: pick box (8, 0.2, 8) cells hex_pointy, cell 1"),
                );
                return None;
            }
        }
        let mut found = vec![object?.1];
        let mut sound = true;
        for number in numbers {
            let wrong = |found: &str| {
                let message = format!("expected the number of a column or a row, found {found}");
                Diagnostic::error(Code::WrongType, message).at(number.span, found)
            };
            match self.value_for(number, &Type::Whole, cx, wrong) {
                Some(number) => found.push(number),
                None => sound = false,
            }
        }
        sound.then_some(found)
    }

    fn random(&mut self, name: &Name, args: &[model::Expr], span: Span, cx: &Cx<'_>) -> Option<Typed> {
        if !cx.may_draw {
            self.wrong(
                Diagnostic::error(Code::Random, "a random number is drawn only in a statement")
                    .at(span, "evaluated any number of times")
                    .help("draw it first: var chance = random(0, 1), then use `chance`; the condition of an `if` can draw"),
            );
            return None;
        }
        self.count_args(name, args, (0, 2), span)?;
        if let [model::Expr { kind: ExprKind::Quantity(model::Quantity::Every, among), .. }] = args {
            let (among, which) = self.among(among, cx)?;
            return typed(Ty::Object(which), Expr::RandomOf(Box::new(among)));
        }
        if let [low, high] = args
            && let Some(found) = self.quietly(|r| r.expr(low, None, cx))
            && found.ty == Ty::DURATION
        {
            let (low, high) = (self.span_of_time(low, cx), self.span_of_time(high, cx));
            let (low, high) = (low?, high?);
            let part = Expr::Random(Box::new(0.0.into()), Box::new(1.0.into()));
            let more = |one: Expr, how, two: Expr| Expr::Arithmetic(how, Box::new(one), Box::new(two));
            let longer = more(high, Arithmetic::Subtract, low.clone());
            return typed(Ty::DURATION, low.plus(more(longer, Arithmetic::Multiply, part)));
        }
        // Between two angles it is one.
        if let [low, high] = args
            && let ExprKind::Literal(Literal::Degrees(from)) = low.kind
            && let ExprKind::Literal(Literal::Degrees(to)) = high.kind
        {
            return typed(Ty::Angle, Expr::Random(Box::new(from.into()), Box::new(to.into())));
        }
        let (low, high) = match args {
            [] => (Expr::from(0.0), Expr::from(1.0)),
            [low, high] => {
                let (low, high) = (self.number(low, cx), self.number(high, cx));
                (low?, high?)
            }
            _ => {
                let message = "`random` takes nothing, the two numbers or spans to draw between, or a group such as `every gate`; found one value";
                self.wrong(Diagnostic::error(Code::WrongCount, message).at(span, "one value"));
                return None;
            }
        };
        typed(Ty::NUMBER, Expr::Random(Box::new(low), Box::new(high)))
    }

    fn count_args(
        &mut self,
        name: &Name,
        args: &[model::Expr],
        (least, most): (usize, usize),
        span: Span,
    ) -> Option<()> {
        if (least..=most).contains(&args.len()) {
            return Some(());
        }
        let wanted = match (least, most) {
            (least, most) if least == most => super::statement::values(least),
            (least, most) => format!("{least} to {most} values"),
        };
        let message = format!("`{}` takes {wanted}, found {}", name.text, args.len());
        self.wrong(
            Diagnostic::error(Code::WrongCount, message).at(span, super::statement::values(args.len())),
        );
        None
    }
}
