package store

import (
	"context"
	crypto "crypto/rand"
	"encoding/binary"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"

	"gobbet/core/draw"
	"gobbet/core/walk"
)

var (
	// ErrAllGone is that nothing is left of what could be drawn.
	ErrAllGone = errors.New("nothing is left to draw")
	// ErrHadGo is that a go was taken for the address already, by someone else.
	ErrHadGo = errors.New("the address has had its go")
)

// How many goes are taken from one internet address (of IPv6 its /64) in an hour
// and a day, and from one network (/24, or /48) in a day: more than for codes
// alone, since telephone networks have many visitors behind one address and each
// go is but a chance.
const (
	GoesPerHour       = 30
	GoesPerDay        = 120
	GoesPerNetworkDay = 600
)

// Why goes are refused, as they are counted.
const (
	GoneAll  = "all_gone" // nothing is left
	HadGo    = "had_go"   // the address had its go
	TooMany  = "too_many" // too many goes to one place
	DrawOver = "over"     // the piece does not show any more
)

// Why a go is tried once more.
const (
	partGone  = "part_gone"
	hadBefore = "had_before" // by the visitor
)

// A go is taken with the walk in one statement: the stock and the code of what
// was drawn, and the go itself. It all follows from the walk's having moved (w),
// and is refused as a whole: what has run out, or is too much for one place,
// comes as a null where none may be.
const (
	takeCode = `, held as (
			select code from codes where site_id = $1 and pool_id = $21 and visitor = $6
		), code as (
			update codes set visitor = $6, piece_id = $3, given_at = now(), address = nullif($23, ''), network = nullif($24, ''), walk_id = $2
			where site_id = $1 and pool_id = $21 and visitor is null and exists (select 1 from w) and not exists (select 1 from held)
				and code = (select code from codes where site_id = $1 and pool_id = $21 and visitor is null order by code limit 1 for update skip locked)
			returning code
		)`
	takeStock = `, stock as (
			insert into part_stock as s (site_id, piece_id, key, part, given) select $1, $3, $16, $17, 1 from w
			on conflict (site_id, piece_id, key, part) do update set given = s.given + 1 where s.given < $20
			returning given
		)`
	takeGo = `, around as (
			select count(*) as network_day, count(*) filter (where place = $23) as day, count(*) filter (where place = $23 and at > now() - interval '1 hour') as hour
			from goes where site_id = $1 and network <> '' and network = $24 and at > now() - interval '1 day'
		), go as (
			insert into goes (site_id, piece_id, key, visitor, walk_id, variant, at, part, label, nth, code, place, network, email)
			select $1, $3, $16, $6, $2, $4, $7, $17, $18, {nth}, {code},
				case when hour < $25::int and day < $26::int and network_day < $27::int then $23 end, $24, nullif($22::text, '')
			from w, around
		)`

	// What a statement has no use for must be given a type all the same.
	noCode, noPool, noStock = `, fixed as (select $19::text)`, `, pooled as (select $21::text)`, `, in_all as (select $20::int)`
)

// goStatements are those that keep a walk with a go, by whether the walk begins,
// and whether what was drawn has a pool and a stock. The database plans each
// once: one for all of them it would plan anew for every go.
var goStatements = func() (all [2][2][2]string) {
	for fresh, walk := range []string{goesOn, begins} {
		for pool, code := range []struct{ takes, gives string }{
			{noPool, `$19::text`}, {noCode + takeCode, `(select coalesce((select code from held), (select code from code)))`},
		} {
			for stock, given := range []struct{ takes, gives string }{{noStock, `0`}, {takeStock, `(select given from stock)`}} {
				take := strings.NewReplacer("{nth}", given.gives, "{code}", code.gives).Replace(takeGo)
				all[fresh][pool][stock] = walk + code.takes + given.takes + take + wasKept
			}
		}
	}
	return all
}()

func index(is bool) int {
	if is {
		return 1
	}
	return 0
}

// goStatement is the one that keeps a walk with the go.
func goStatement(g *walk.Go, fresh bool) string {
	return goStatements[index(fresh)][index(g.Prize.Pool != "")][index(g.Prize.Stock != nil)]
}

// goArgs are those of goStatements, after those of the walk.
func goArgs(g *walk.Go, who Walker) []any {
	stock, email := -1, ""
	if g.Prize.Stock != nil {
		stock = *g.Prize.Stock
	}
	if g.Email != "" && who.Digest != nil {
		email = who.Digest(g.Email)
	}
	return []any{
		g.Key, g.Prize.ID, g.Prize.Label, g.Prize.Code, stock, g.Prize.Pool, email, who.Place, who.Network,
		GoesPerHour * max(1, who.Generous), GoesPerDay * max(1, who.Generous), GoesPerNetworkDay * max(1, who.Generous),
	}
}

// whyNoGo tells by the constraint of goes that refused a go what refused it.
func whyNoGo(err error) string {
	var answer *pgconn.PgError
	if errors.Is(err, ErrAllGone) {
		return GoneAll
	}
	if !errors.As(err, &answer) {
		return ""
	}
	switch {
	case answer.Code == "23502" && (answer.ColumnName == "nth" || answer.ColumnName == "code"):
		return partGone
	case answer.Code == "23502" && answer.ColumnName == "place":
		return TooMany
	case answer.ConstraintName == "goes_of_email":
		return HadGo
	case answer.ConstraintName == "goes_pkey" || answer.ConstraintName == "codes_given":
		return hadBefore
	}
	return ""
}

// drawing makes the draw that a step wants, and keeps the step with what it
// comes to. A part that turns out to have run out is drawn no more, and the rest
// share its odds, as package draw has it. Who has had a go gets what they drew
// then, whatever there is left.
func (s *Store) drawing(ctx context.Context, site int64, who Walker, of *walk.Draw, keep func(*walk.Drawn) error) error {
	parts := make([]draw.Part, len(of.Prizes))
	for i, part := range of.Prizes {
		parts[i] = draw.Part{Weight: part.Weight, Stock: -1}
		if part.Stock != nil && *part.Stock == 0 {
			parts[i].Stock = 0
		}
	}
	pot, err := draw.New(parts)
	if err != nil {
		return err
	}
	source := who.Source
	if source == nil {
		source = cryptic{}
	}
	for range len(parts) + tries {
		i, err := pot.Draw(source)
		if err == nil {
			err = keep(&walk.Drawn{Key: of.Key, Part: of.Prizes[i].ID, Label: of.Prizes[i].Label})
		} else {
			err = ErrAllGone
		}
		switch why := whyNoGo(err); why {
		case "":
			return err
		case partGone:
			pot.Out(i)
			continue
		}
		had, lost := s.hadGo(ctx, site, who, of.Key)
		switch {
		case lost == nil:
			return keep(had)
		case !errors.Is(lost, ErrNotFound):
			return lost
		case whyNoGo(err) != hadBefore:
			return err
		}
	}
	return ErrBusy
}

// hadGo gives what a visitor drew before.
func (s *Store) hadGo(ctx context.Context, site int64, who Walker, key string) (*walk.Drawn, error) {
	had := &walk.Drawn{Key: key, Again: true}
	err := s.db.QueryRowxContext(ctx, `select part, label from goes where site_id = $1 and piece_id = $2 and key = $3 and visitor = $4`,
		site, who.Piece, key, who.Visitor).Scan(&had.Part, &had.Label)
	return had, found(err)
}

// refused says in the store's own words why a go was refused, and counts it.
func (s *Store) refused(ctx context.Context, site int64, zone *time.Location, who Walker, key string, err error) error {
	why := whyNoGo(err)
	if is := map[string]error{HadGo: ErrHadGo, TooMany: ErrDrained, GoneAll: ErrAllGone}[why]; is != nil {
		return errors.Join(is, s.RefuseGo(ctx, site, zone, who, key, why))
	}
	return err
}

// RefuseGo counts a go that was refused, with all else that walks count for.
func (s *Store) RefuseGo(ctx context.Context, site int64, zone *time.Location, who Walker, key, why string) error {
	counts, err := json.Marshal(counted{Refused: []goRefused{{key, why, 1}}})
	if err == nil {
		_, err = s.db.ExecContext(ctx, `insert into walk_counts (site_id, piece_id, variant, day, counts) values ($1, $2, $3, $4, $5)`,
			site, who.Piece, who.Variant, who.At.In(zone).Format(time.DateOnly), string(counts))
	}
	return err
}

// wonWith adds the codes that were won to the answers of scenes that were drawn
// on, and holds addresses to one go each.
func wonWith(ctx context.Context, tx *sqlx.Tx, site int64, who Walker, sent []walk.Submission) error {
	for _, one := range sent {
		if one.Email != "" && who.Digest != nil {
			_, err := tx.ExecContext(ctx, `update goes set email = $4 where site_id = $1 and piece_id = $2 and visitor = $3 and email is null`,
				site, who.Piece, who.Visitor, who.Digest(one.Email))
			if err != nil {
				return err
			}
		}
		for _, key := range one.Draws {
			var code string
			err := found(tx.GetContext(ctx, &code, `select code from goes where site_id = $1 and piece_id = $2 and key = $3 and visitor = $4`, site, who.Piece, key, who.Visitor))
			if err != nil && !errors.Is(err, ErrNotFound) {
				return err
			}
			if code != "" {
				one.Answers[key+"_code"] = code
			}
		}
	}
	return nil
}

// WonCode is the code of what a visitor drew; empty where it has none.
// ErrNotFound says that they have had no go.
func (s *Store) WonCode(ctx context.Context, site int64, piece, key, visitor string) (code string, err error) {
	err = found(s.db.GetContext(ctx, &code, `select code from goes where site_id = $1 and piece_id = $2 and key = $3 and visitor = $4`, site, piece, key, visitor))
	return code, err
}

// PartStock gives how often parts with a stock of their own were drawn, by
// their draw and themselves.
func (s *Store) PartStock(ctx context.Context, site int64, piece string) (map[walk.Choice]int, error) {
	var rows []struct {
		Key   string `db:"key"`
		Part  string `db:"part"`
		Given int    `db:"given"`
	}
	err := s.db.SelectContext(ctx, &rows, `select key, part, given from part_stock where site_id = $1 and piece_id = $2`, site, piece)
	given := map[walk.Choice]int{}
	for _, row := range rows {
		given[walk.Choice{Key: row.Key, Choice: row.Part}] = row.Given
	}
	return given, err
}

// GoAt is where a go stands in a list of them.
type GoAt struct {
	Key     string `db:"key"`
	Visitor string `db:"visitor"`
}

// TakenGo is a go, with who took it.
type TakenGo struct {
	GoAt
	At      time.Time `db:"at"`
	Variant string    `db:"variant"`
	Label   string    `db:"label"`
	Code    string    `db:"code"`
	Email   string    `db:"email"` // empty where they left none
}

// Goes lists the goes at a piece's draws, in no order of time, those after one;
// the zero GoAt begins.
func (s *Store) Goes(ctx context.Context, site int64, piece string, after GoAt, limit int) (goes []TakenGo, err error) {
	err = s.db.SelectContext(ctx, &goes, `
		select g.at, g.key, g.visitor, g.variant, g.label, g.code, coalesce(l.email, '') as email
		from goes g left join walks w on w.site_id = g.site_id and w.id = g.walk_id left join leads l on l.site_id = w.site_id and l.id = w.lead_id
		where g.site_id = $1 and g.piece_id = $2 and (g.key, g.visitor) > ($3, $4)
		order by g.key, g.visitor limit $5`, site, piece, after.Key, after.Visitor, limit)
	return goes, err
}

// cryptic is the machine's cryptographic source of randomness.
type cryptic struct{}

func (cryptic) Uint64() uint64 {
	var b [8]byte
	_, _ = crypto.Read(b[:]) // never fails
	return binary.LittleEndian.Uint64(b[:])
}
