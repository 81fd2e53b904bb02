package walks

import (
	"context"
	crypto "crypto/rand"
	"encoding/binary"
	"encoding/json"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"

	"gobbet/core/draw"
	"gobbet/core/fault"
	"gobbet/core/walk"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/pg"
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

// limited reports whether a go takes something of which there is only so much.
func limited(g *walk.Go) bool { return g.Prize.Stock != nil || g.Prize.Pool != "" }

func (w *Walker) digest(address string) string {
	if address == "" || w.Digest == nil {
		return ""
	}
	return w.Digest(address)
}

// takeLimited takes the stock and the code of what was drawn, and the go itself.
// It is refused as a whole: what has run out, or is too much for one place, comes
// as a null where none may be. What is drawn without a stock has a negative one,
// and without a pool an empty one.
func takeLimited(ctx context.Context, tx *sqlx.Tx, s *step) error {
	stock, times := -1, max(1, s.who.Generous)
	if s.Go.Prize.Stock != nil {
		stock = *s.Go.Prize.Stock
	}
	_, err := tx.ExecContext(ctx, `
		with held as (
			select code from codes where @pool <> '' and site_id = @site and pool_id = @pool and visitor = @visitor
		), code as (
			update codes set visitor = @visitor, piece_id = @piece, given_at = now(), address = nullif(@place, ''), network = nullif(@network, ''), walk_id = @walk
			where @pool <> '' and site_id = @site and pool_id = @pool and visitor is null and not exists (select 1 from held)
				and code = (select code from codes where site_id = @site and pool_id = @pool and visitor is null order by code limit 1 for update skip locked)
			returning code
		), stock as (
			insert into part_stock as s (site_id, piece_id, key, part, given) select @site, @piece, @draw, @part, 1 where @stock::int >= 0
			on conflict (site_id, piece_id, key, part) do update set given = s.given + 1 where s.given < @stock::int
			returning given
		), around as (
			select count(*) as network_day, count(*) filter (where place = @place) as day, count(*) filter (where place = @place and at > now() - interval '1 hour') as hour
			from goes where site_id = @site and network <> '' and network = @network and at > now() - interval '1 day'
		)
		insert into goes (site_id, piece_id, key, visitor, walk_id, variant, at, part, label, nth, code, place, network, email, uncounted)
		select @site, @piece, @draw, @visitor, @walk, @variant, @at, @part, @label,
			case when @stock::int < 0 then 0 else (select given from stock) end,
			case when @pool = '' then @code else coalesce((select code from held), (select code from code)) end,
			case when hour < @perHour::int and day < @perDay::int and network_day < @perNetworkDay::int then @place end, @network, nullif(@email::text, ''), @uncounted
		from around`, pgx.NamedArgs{
		"site": s.site, "walk": s.who.Walk, "piece": s.who.Piece, "variant": s.who.Variant, "visitor": s.who.Visitor, "at": s.who.At,
		"draw": s.Go.Key, "part": s.Go.Prize.ID, "label": s.Go.Prize.Label, "code": s.Go.Prize.Code, "stock": stock, "pool": s.Go.Prize.Pool, "email": s.who.digest(s.Go.Email),
		"place": s.who.Place, "network": s.who.Network, "uncounted": s.who.Unwatched,
		"perHour": GoesPerHour * times, "perDay": GoesPerDay * times, "perNetworkDay": GoesPerNetworkDay * times,
	})
	return err
}

// refusalOf tells by the constraint of goes that refused a go what refused it.
func refusalOf(err error) string {
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
		switch why := refusalOf(err); why {
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
		case !errors.Is(lost, fault.ErrNotFound):
			return lost
		case refusalOf(err) != hadBefore:
			return err
		}
	}
	return fault.ErrBusy
}

// hadGo gives what a visitor drew before.
func (s *Store) hadGo(ctx context.Context, site int64, who Walker, key string) (*walk.Drawn, error) {
	had := &walk.Drawn{Key: key, Again: true}
	err := s.db.QueryRowxContext(ctx, `select part, label from goes where site_id = $1 and piece_id = $2 and key = $3 and visitor = $4`,
		site, who.Piece, key, who.Visitor).Scan(&had.Part, &had.Label)
	return had, pg.Found(err)
}

// refused says in the store's own words why a go was refused, and counts it.
func (s *Store) refused(ctx context.Context, site int64, zone *time.Location, who Walker, key string, err error) error {
	why := refusalOf(err)
	if is := map[string]error{HadGo: ErrHadGo, TooMany: codes.ErrDrained, GoneAll: ErrAllGone}[why]; is != nil {
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
		if digest := who.digest(one.Email); digest != "" {
			_, err := tx.ExecContext(ctx, `update goes set email = $4 where site_id = $1 and piece_id = $2 and visitor = $3 and email is null`,
				site, who.Piece, who.Visitor, digest)
			if err != nil {
				return err
			}
		}
		for _, key := range one.Draws {
			var code string
			err := pg.Found(tx.GetContext(ctx, &code, `select code from goes where site_id = $1 and piece_id = $2 and key = $3 and visitor = $4`, site, who.Piece, key, who.Visitor))
			if err != nil && !errors.Is(err, fault.ErrNotFound) {
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
	err = pg.Found(s.db.GetContext(ctx, &code, `select code from goes where site_id = $1 and piece_id = $2 and key = $3 and visitor = $4`, site, piece, key, visitor))
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

// Uncounted is what visitors who are not counted took part in since a time: goes
// at draws, by variant, and votes in polls, of all variants. The empty choice
// counts the goes and the voters.
type Uncounted struct {
	Variant string `db:"variant"`
	Key     string `db:"key"`
	Choice  string `db:"choice"`
	N       int    `db:"n"`
}

// Uncounted gives what of a piece's stock and public votes no report counts.
func (s *Store) Uncounted(ctx context.Context, site int64, piece string, since time.Time) (uncounted []Uncounted, err error) {
	err = s.db.SelectContext(ctx, &uncounted, `
		select variant, key, choice, count(*) as n from (
			select variant, key, unnest(array[part, '']) as choice from goes where site_id = $1 and piece_id = $2 and uncounted and at >= $3
			union all
			select '', key, unnest(array_append(choices, '')) from votes where site_id = $1 and piece_id = $2 and uncounted and at >= $3
		) all_of_it group by variant, key, choice order by variant, key, choice`, site, piece, since)
	return uncounted, err
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
