package store

import (
	"context"

	"github.com/jmoiron/sqlx"
)

// Variant is a version of an exercise at sizes. The plain one, number 0, is at those that its maker gave it; the others
// are at sizes that were drawn for a student.
type Variant struct {
	VersionID int64  `db:"version_id"`
	Number    int    `db:"number"`
	Drawn     int    `db:"drawn"`       // which draw it is, from 0; below 0 where its sizes come from another version
	Values    []byte `db:"size_values"` // JSON: formulas by driving sizes
	Refused   string `db:"refused"`     // why it cannot be had; empty where it can
	Stated    []byte `db:"stated"`      // JSON: what its sheet states, by characteristics, in mm, degrees or as numbers
	// As those of a version.
	Hash         string  `db:"hash"`
	Document     []byte  `db:"document"`
	ReferenceSHA *string `db:"reference_sha"`
	Prepared     []byte  `db:"prepared"`
}

// plain is the variant that a version is itself.
func plain(v Version) Variant {
	return Variant{VersionID: v.ID, Values: []byte("{}"), Hash: v.Measured, Document: v.Document,
		ReferenceSHA: &v.ReferenceSHA, Prepared: v.Prepared}
}

// Variants lists the variants of a version that were drawn for students, by their numbers, with their sizes and what
// they state alone.
func (s *Store) Variants(ctx context.Context, version int64) ([]Variant, error) {
	out := []Variant{}
	return out, s.db.SelectContext(ctx, &out, `SELECT version_id, number, drawn, size_values, refused, stated, hash
		FROM variants WHERE version_id = ? AND number > 0 ORDER BY number`, version)
}

// AddVariants keeps variants, with the documents of their references. One without a number gets the next.
func (s *Store) AddVariants(ctx context.Context, version int64, list []Variant, references [][]byte) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var id int64 // locked, so that no number comes twice
		if err := tx.GetContext(ctx, &id, `SELECT id FROM exercise_versions WHERE id = ? FOR UPDATE`, version); err != nil {
			return found(err)
		}
		for i, v := range list {
			v.VersionID = version
			if v.Number == 0 {
				if err := tx.GetContext(ctx, &v.Number, `SELECT COALESCE(MAX(number), 0) + 1 FROM variants
		WHERE version_id = ?`, version); err != nil {
					return err
				}
			}
			if references[i] != nil {
				sha, err := putFile(ctx, tx, references[i])
				if err != nil {
					return err
				}
				v.ReferenceSHA = &sha
			}
			if err := addVariant(ctx, tx, v); err != nil {
				return err
			}
		}
		return nil
	})
}

func addVariant(ctx context.Context, tx *sqlx.Tx, v Variant) error {
	_, err := tx.NamedExecContext(ctx, `INSERT IGNORE INTO variants (version_id, number, drawn, size_values, hash,
		document, stated, reference_sha, prepared, refused, bulk) VALUES (:version_id, :number, :drawn, :size_values, :hash,
		:document, :stated, :reference_sha, :prepared, :refused,
		JSON_EXTRACT(CONVERT(:prepared USING utf8mb4), '$.bulk'))`, v)
	return err
}

// Assigned is which variant a student has.
type Assigned struct {
	Student int64
	Variant int
}

// Assign gives students of an issue their variants, but for those who have one.
func (s *Store) Assign(ctx context.Context, issue int64, list []Assigned) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		for _, a := range list {
			if _, err := tx.ExecContext(ctx, `INSERT INTO issue_students (issue_id, student_id, variant) VALUES (?, ?, ?)
		ON DUPLICATE KEY UPDATE variant = IF(variant = 0, VALUES(variant), variant)`, issue,
				a.Student, a.Variant); err != nil {
				return err
			}
		}
		return nil
	})
}

// VersionFor gives a version as a student has it at an issue: at the sizes of the own variant where there is one.
// Refused says why the version cannot be had at these sizes, or is empty.
func (s *Store) VersionFor(ctx context.Context, version, issue, student int64) (v Version, refused string, err error) {
	var row struct {
		Version
		Own     *int64 `db:"own"` // the variant's row
		Refused string `db:"refused"`
	}
	err = found(s.db.GetContext(ctx, &row, `SELECT v.id, v.exercise_id, v.version, v.title, v.number, v.created_by,
		v.created_at, IF(x.id IS NULL, p.document, x.document) document, IF(x.id IS NULL, p.prepared, x.prepared) prepared,
		COALESCE(x.reference_sha, p.reference_sha) reference_sha, COALESCE(x.hash, p.hash) measured,
		COALESCE(o.variant, 0) variant, x.id own, COALESCE(x.refused, '') refused
		FROM exercise_versions v JOIN variants p ON p.version_id = v.id AND p.number = 0
		LEFT JOIN issue_students o ON o.issue_id = ? AND o.student_id = ?
		LEFT JOIN variants x ON x.version_id = v.id AND x.number = COALESCE(o.variant, 0) WHERE v.id = ?`, issue, student,
		version))
	if err == nil && row.Own == nil {
		row.Refused = "they were not worked out for this version"
	}
	return row.Version, row.Refused, err
}

// measuredAt stands for what is measured of an attempt a when it is checked against a version v: where its student has
// sizes of the own, these go with it.
const measuredAt = `COALESCE((SELECT x.hash FROM issue_students o JOIN variants x ON x.number = o.variant
	WHERE o.issue_id = a.issue_id AND o.student_id = a.student_id AND x.version_id = v.id),
	(SELECT x.hash FROM variants x WHERE x.version_id = v.id AND x.number = 0))`
