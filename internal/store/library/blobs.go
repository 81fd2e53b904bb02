package library

import (
	"context"
	"errors"
	"io"
	"time"

	"gobbet/internal/store/pg"
)

const (
	// blobPiece is how much of a body is read at a time, and so all the memory
	// that one reader takes.
	blobPiece    = 256 << 10
	blobPatience = 5 * time.Second // for one piece
)

// Blob reads a stored body in pieces, from wherever it is asked to. Each piece
// is a query of its own over connections kept for this: nothing is held
// between reads, and who reads slowly keeps nobody from the rest of the store.
// It implements io.ReadSeeker.
type Blob struct {
	db    *pg.DB
	ctx   context.Context
	query string
	hash  string
	size  int64
	at    int64
	piece []byte
	from  int64 // of piece
}

// Read implements io.Reader.
func (b *Blob) Read(into []byte) (int, error) {
	if b.at >= b.size {
		return 0, io.EOF
	}
	if b.at < b.from || b.at >= b.from+int64(len(b.piece)) {
		ctx, cancel := context.WithTimeout(b.ctx, blobPatience)
		defer cancel()
		var piece []byte
		if err := b.db.Blobs.GetContext(ctx, &piece, b.query, b.hash, b.at+1, blobPiece); err != nil {
			return 0, pg.Found(err)
		}
		if len(piece) == 0 {
			return 0, io.ErrUnexpectedEOF
		}
		b.piece, b.from = piece, b.at
	}
	n := copy(into, b.piece[b.at-b.from:])
	b.at += int64(n)
	return n, nil
}

// Seek implements io.Seeker.
func (b *Blob) Seek(offset int64, whence int) (int64, error) {
	switch whence {
	case io.SeekCurrent:
		offset += b.at
	case io.SeekEnd:
		offset += b.size
	}
	if offset < 0 {
		return b.at, errors.New("before the beginning")
	}
	b.at = offset
	return offset, nil
}

// OpenFile gives a file without its body, and what reads that. The body is read
// within ctx.
func (s *Store) OpenFile(ctx context.Context, hash string) (f File, body *Blob, err error) {
	first, cancel := context.WithTimeout(ctx, blobPatience)
	defer cancel()
	err = s.db.Blobs.GetContext(first, &f, `select hash, name, mime, length(body) as bytes, created_at from files where hash = $1 limit 1`, hash)
	return f, &Blob{db: s.db, ctx: ctx, query: `select substring(body from $2 for $3) from files where hash = $1 limit 1`, hash: hash, size: int64(f.Bytes)}, pg.Found(err)
}

// OpenPicture is OpenFile for a picture.
func (s *Store) OpenPicture(ctx context.Context, hash string) (p Picture, body *Blob, err error) {
	first, cancel := context.WithTimeout(ctx, blobPatience)
	defer cancel()
	err = s.db.Blobs.GetContext(first, &p, `select hash, name, mime, width, height, length(body) as bytes, created_at from pictures where hash = $1 limit 1`, hash)
	return p, &Blob{db: s.db, ctx: ctx, query: `select substring(body from $2 for $3) from pictures where hash = $1 limit 1`, hash: hash, size: int64(p.Bytes)}, pg.Found(err)
}
