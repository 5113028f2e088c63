/** Tables of the definition: the documents of the working copy, and settings of this installation. */
import { Column, Entity, PrimaryColumn, PrimaryGeneratedColumn, Unique } from 'typeorm'

@Entity({ name: 'document' })
@Unique('document_path_key', ['path'])
export class DocumentEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'document_pk' }) id: number
  @Column({ type: 'text' }) path: string
  @Column({ type: 'text' }) text: string
  /** Grows with each save; a save names the version it changes. */
  @Column({ type: 'int', default: 1 }) version: number
  @Column({ type: 'timestamptz', name: 'updated_at', default: () => 'now()' }) updatedAt: Date
}

@Entity({ name: 'setting' })
export class SettingEntity {
  @PrimaryColumn({ type: 'text', primaryKeyConstraintName: 'setting_pk' }) name: string
  @Column({ type: 'jsonb' }) value: unknown
}
