/** The tables of the definition: its documents, and the settings of this installation. */
import { Column, Entity, PrimaryColumn, PrimaryGeneratedColumn, Unique } from 'typeorm'

@Entity({ name: 'document' })
@Unique('document_path_key', ['path'])
export class DocumentEntity {
  @PrimaryGeneratedColumn('identity', { type: 'int', primaryKeyConstraintName: 'document_pk' }) id: number
  @Column({ type: 'text' }) path: string
  @Column({ type: 'text' }) text: string
  /** Grows with every save. A save of an older version is a conflict. */
  @Column({ type: 'int', default: 1 }) version: number
  @Column({ type: 'timestamptz', name: 'updated_at', default: () => 'now()' }) updatedAt: Date
}

@Entity({ name: 'setting' })
export class SettingEntity {
  @PrimaryColumn({ type: 'text', primaryKeyConstraintName: 'setting_pk' }) name: string
  @Column({ type: 'jsonb' }) value: unknown
}
